import { randomUUID } from 'node:crypto';
import { mkdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import type { roleRoutes } from '@vaquero/contracts';
import type { FileStore } from '../artifacts/store-files.ts';
import type { Slot } from '../walls/slot.ts';
import { linkedPrefix, type UsedWorkplaces } from '../walls/used-workplaces.ts';
import { changeTree, listTree } from './link-tree.ts';

/** The tree of a commit that a slot keeps: nothing writes to it, and the next one is made from it. */
export interface KeptSource {
  readonly commit: string;
  readonly folder: string;
  readonly paths: readonly string[];
}

/** The newest tree of each repository's part that a slot has built, so that the next takes only what changed. */
export interface SourceCache {
  readonly newest: (slot: Slot, sight: string) => KeptSource | null;
  /** Makes the tree of another commit beside a kept one; `changes` may still be on their way. */
  readonly next: (
    slot: Slot,
    kept: KeptSource,
    commit: string,
    changes: Promise<roleRoutes.SourceChanges | null>,
  ) => Promise<KeptSource | null>;
  /** Takes a tree that was unpacked whole out of its workplace. */
  readonly take: (slot: Slot, commit: string, tree: string) => Promise<KeptSource>;
  /** Keeps a tree as its sight's newest; the one before it is used no more. */
  readonly keep: (slot: Slot, sight: string, source: KeptSource) => Promise<void>;
}

const mostOfASlot = 16;

/** Opens the cache. It lies in the slots, which are emptied at the runner's start, and under their uids. */
export function openSourceCache(store: FileStore, used: UsedWorkplaces): SourceCache {
  const kept = new Map<Slot, Map<string, KeptSource>>();
  const folderIn = async (slot: Slot): Promise<string> => {
    const directory = join(slot.directory, 'sources');
    await mkdir(directory, { recursive: true, mode: 0o711 });
    return join(directory, randomUUID());
  };
  const drop = (source: KeptSource): Promise<void> =>
    used.take(source.folder, `${linkedPrefix}${randomUUID()}`);

  return {
    newest: (slot, sight) => kept.get(slot)?.get(sight) ?? null,
    next: async (slot, { folder: from, paths }, commit, asked) => {
      const folder = await folderIn(slot);
      const [, changes] = await Promise.all([
        store.linkTree({ from, to: folder, paths, uid: slot.uid }),
        asked,
      ]);
      if (changes === null) {
        await used.take(folder, `${linkedPrefix}${randomUUID()}`);
        return null;
      }
      return { commit, folder, paths: changeTree(folder, paths, changes, slot.uid) };
    },
    take: async (slot, commit, tree) => {
      const folder = await folderIn(slot);
      await rename(tree, folder);
      return { commit, folder, paths: listTree(folder) };
    },
    keep: async (slot, sight, source) => {
      const own = kept.get(slot) ?? new Map<string, KeptSource>();
      kept.set(slot, own);
      const before = own.get(sight);
      own.delete(sight);
      own.set(sight, source);
      if (before !== undefined) await drop(before);
      for (const [name, oldest] of own) {
        if (own.size <= mostOfASlot) break;
        own.delete(name);
        await drop(oldest);
      }
    },
  };
}
