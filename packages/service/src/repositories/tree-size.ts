import { setImmediate as breathe } from 'node:timers/promises';

/** What a commit's tree may hold: nobody's site is larger, and a few bytes of Git can say that it is without end. */
export const mostOfTree = {
  entries: 200_000,
  depth: 100,
  pathBytes: 4000,
  objectBytes: 64 << 20,
} as const;

/** A commit is not read, because of what it holds or because of what reading it did; its words end the build. */
export class CommitUnreadable extends Error {
  override readonly name = 'CommitUnreadable';
}

/** Refuses a walk of a tree that goes past what a tree may hold, and lets others have their turn. */
export interface TreeWalk {
  /** Counts one entry, at its path. Throws CommitUnreadable. */
  readonly pass: (path: string, depth: number) => void;
  /** Waits for its turn every so often. */
  readonly rest: () => Promise<void>;
}

const entriesInTurn = 2000;

/** Begins to count a walk. */
export function beginWalk(): TreeWalk {
  let entries = 0;
  let rested = 0;
  return {
    pass: (path, depth) => {
      entries += 1;
      if (entries > mostOfTree.entries) throw tooLarge('over 200,000 entries');
      if (depth > mostOfTree.depth) throw tooLarge('folders over 100 deep');
      // A unit of a string is three bytes at most: most paths need no counting.
      if (path.length * 3 > mostOfTree.pathBytes && Buffer.byteLength(path) > mostOfTree.pathBytes)
        throw tooLarge('a path of over 4,000 bytes');
    },
    rest: async () => {
      if (entries - rested < entriesInTurn) return;
      rested = entries;
      await breathe();
    },
  };
}

/** Why a tree is not read. */
export function tooLarge(holds: string): CommitUnreadable {
  return new CommitUnreadable(`its tree holds ${holds}, and a commit that is built may not`);
}
