import { randomUUID } from 'node:crypto';
import { mkdirSync, renameSync } from 'node:fs';
import { mkdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { roleRoutes } from '@vaquero/contracts';
import type { Logger } from 'pino';
import { killAll, type Slot, shortName } from '../walls/slot.ts';
import type { UsedWorkplaces } from '../walls/used-workplaces.ts';
import { changeTree, listTree } from './change-tree.ts';
import {
  coarseMs,
  newestOf,
  settleTree,
  stampChanges,
  stampTree,
  type TreeStamps,
} from './tree-stamps.ts';

/** The tree of a commit that a slot keeps. Between builds it becomes that of the next commit. */
export interface KeptSource {
  readonly commit: string;
  readonly folder: string;
  readonly paths: readonly string[];
  /** What tells whether it was written to; null as long as it was never lent. */
  readonly stamps: TreeStamps | null;
}

/** A kept tree that a build writes to as it pleases. */
export interface LentSource {
  readonly folder: string;
  /** The committed paths. */
  readonly paths: ReadonlySet<string>;
  /** Takes it back: every process of the build is ended, and what it left is taken out. */
  readonly giveBack: () => Promise<void>;
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
  /** Lends a kept tree to a build; null for one of whose builds one has written to what was committed. */
  readonly lend: (slot: Slot, sight: string, source: KeptSource) => Promise<LentSource | null>;
}

const mostOfASlot = 16;
/** Beyond these a tree is fetched whole again each time that a build changes it. */
const mostRewritten = 1000;

/** Opens the cache. It lies in the slots, which are emptied at the runner's start, and under their uids. */
export function openSourceCache(used: UsedWorkplaces, log: Logger): SourceCache {
  const kept = new Map<number, Map<string, KeptSource>>();
  /** Where a build has written to what was committed, by slot and sight. */
  const rewritten = new Set<string>();
  const ofSlot = (slot: Slot): Map<string, KeptSource> => {
    const own = kept.get(slot.number) ?? new Map<string, KeptSource>();
    kept.set(slot.number, own);
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
      const { folder, paths, stamps } = source;
      try {
        const changed = changeTree(folder, paths, changes, slot.uid);
        return note(slot, sight, {
          commit,
          folder,
          paths: changed,
          stamps: stamps && stampChanges(folder, stamps, changes),
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
      const folder = join(directory, shortName());
      await rename(tree, folder);
      const paths = listTree(folder);
      const source = note(slot, sight, { commit, folder, paths, stamps: null });
      const [oldest] = ofSlot(slot).keys();
      if (ofSlot(slot).size > mostOfASlot && oldest !== undefined) await drop(slot, oldest);
      return source;
    },
    lend: async (slot, sight, source) => {
      if (rewritten.has(`${slot.number} ${sight}`)) return null;
      const { folder, paths } = source;
      const stamps = source.stamps ?? (await stampTree(folder, paths));
      // What is changed within one tick of the clock looks as it did; the build begins in a later one.
      const waitMs = newestOf(stamps) + coarseMs + 1 - Date.now();
      if (waitMs > 0) await pause(waitMs);
      const since = Date.now();
      const settle = async (): Promise<TreeStamps | null> => {
        await killAll(slot);
        const pile = `${folder}.left`;
        let piled = 0;
        const aside = (left: string): void => {
          mkdirSync(pile, { recursive: true });
          renameSync(left, join(pile, String(piled)));
          piled += 1;
        };
        try {
          return await settleTree(folder, stamps, { since, uid: slot.uid, aside });
        } finally {
          if (piled > 0) await used.take(pile, `left-${randomUUID()}`);
        }
      };
      return {
        folder,
        paths: new Set(paths),
        giveBack: async () => {
          const settled = await settle().catch((err: unknown) => {
            log.warn({ err, commit: source.commit }, 'a kept tree could not be put in order');
            return null;
          });
          if (settled !== null) return void note(slot, sight, { ...source, stamps: settled });
          // Its builds change what was committed: the next ones get a layer over it.
          if (rewritten.size < mostRewritten) rewritten.add(`${slot.number} ${sight}`);
          await drop(slot, sight);
        },
      };
    },
  };
}
