import { randomUUID } from 'node:crypto';
import { mkdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import type { roleRoutes } from '@vaquero/contracts';
import type { Logger } from 'pino';
import type { Slot } from '../walls/slot.ts';
import type { UsedWorkplaces } from '../walls/used-workplaces.ts';
import { changeTree, listTree } from './change-tree.ts';

/** The tree of a commit that a slot keeps. While a build runs nothing writes to it; between builds it becomes that of the next commit. */
export interface KeptSource {
  readonly commit: string;
  readonly folder: string;
  readonly paths: readonly string[];
}

/** The newest tree of each repository's part that a slot has built, so that the next takes only what changed. */
export interface SourceCache {
  readonly newest: (slot: Slot, sight: string) => KeptSource | null;
  /** The commits whose trees a slot keeps, by their sights. */
  readonly kept: (slot: Slot) => readonly { readonly sight: string; readonly commit: string }[];
  /** Turns a kept tree into that of another commit; null when that cannot be, and the tree is gone. */
  readonly turn: (
    slot: Slot,
    sight: string,
    commit: string,
    changes: roleRoutes.SourceChanges,
  ) => Promise<KeptSource | null>;
  /** Keeps a tree that was unpacked whole, out of its workplace, as its sight's newest. */
  readonly keep: (slot: Slot, sight: string, commit: string, tree: string) => Promise<KeptSource>;
}

const mostOfASlot = 16;

/** Opens the cache. It lies in the slots, which are emptied at the runner's start, and under their uids. */
export function openSourceCache(used: UsedWorkplaces, log: Logger): SourceCache {
  const kept = new Map<Slot, Map<string, KeptSource>>();
  const ofSlot = (slot: Slot): Map<string, KeptSource> => {
    const own = kept.get(slot) ?? new Map<string, KeptSource>();
    kept.set(slot, own);
    return own;
  };
  const drop = async (slot: Slot, sight: string): Promise<void> => {
    const source = ofSlot(slot).get(sight);
    ofSlot(slot).delete(sight);
    if (source !== undefined) await used.take(source.folder, `source-${randomUUID()}`);
  };
  const note = (slot: Slot, sight: string, source: KeptSource): KeptSource => {
    // Behind all others: the first is the one longest unused.
    ofSlot(slot).delete(sight);
    ofSlot(slot).set(sight, source);
    return source;
  };

  return {
    newest: (slot, sight) => ofSlot(slot).get(sight) ?? null,
    kept: (slot) => [...ofSlot(slot)].map(([sight, { commit }]) => ({ sight, commit })),
    turn: async (slot, sight, commit, changes) => {
      const source = ofSlot(slot).get(sight);
      if (source === undefined) return null;
      const { folder, paths } = source;
      try {
        return note(slot, sight, {
          commit,
          folder,
          paths: changeTree(folder, paths, changes, slot.uid),
        });
      } catch (err) {
        // Half of it may be changed: what is fetched whole takes its place.
        log.warn({ err, commit }, 'a kept tree could not be changed');
        await drop(slot, sight);
        return null;
      }
    },
    keep: async (slot, sight, commit, tree) => {
      await drop(slot, sight);
      const directory = join(slot.directory, 'sources');
      await mkdir(directory, { recursive: true, mode: 0o711 });
      const folder = join(directory, randomUUID());
      await rename(tree, folder);
      const source = note(slot, sight, { commit, folder, paths: listTree(folder) });
      const [oldest] = ofSlot(slot).keys();
      if (ofSlot(slot).size > mostOfASlot && oldest !== undefined) await drop(slot, oldest);
      return source;
    },
  };
}
