import type { Readable } from 'node:stream';
import type { BuildAt } from '../builds/build-at.ts';
import { environmentOf } from '../builds/step-environment.ts';
import { type Ended, runBehindWalls } from '../walls/run-behind-walls.ts';
import { runWithoutWalls } from '../walls/run-without-walls.ts';
import { type Mount, type Sight, wholeSight } from '../walls/wall-arguments.ts';

/** A command of the runner's own that works on what a build can influence. */
export interface InTree {
  readonly command: readonly string[];
  /** What it sees as /build: a folder, writable or as it is, or nothing but the mounts. */
  readonly tree: { readonly folder: string; readonly isWritable: boolean } | null;
  readonly mounts?: readonly Mount[];
  readonly input?: Readable;
  readonly hear: (bytes: Buffer) => boolean;
  readonly stepMs?: number;
}

/**
 * Runs a command of the runner's own as the build's uid behind the build's walls: whatever links, pipes or names it
 * meets there, it can do no more than the build could. Nothing of it is reached over a network.
 */
export function inTree(at: BuildAt, what: InTree): Promise<Ended> {
  const run = at.withoutWalls ? runWithoutWalls : runBehindWalls;
  const { tree, mounts = [] } = what;
  const shown: readonly Mount[] =
    tree === null || tree.isWritable ? [] : [{ from: tree.folder, at: '/build', writable: false }];
  const workplace =
    tree === null ? at.workplace : { ...at.workplace, tree: tree.folder, layer: null };
  const sight: Sight = {
    ...wholeSight(workplace),
    tree: tree?.isWritable === true ? 'writable' : 'hidden',
    mounts: [...shown, ...mounts],
  };
  return run(
    {
      slot: at.slot,
      workplace,
      limits: { ...at.limits, stepMs: what.stepMs ?? at.limits.stepMs },
      network: 'none',
      anterooms: at.anterooms,
      environment: environmentOf(at, { sets: {}, given: [], network: 'none' }),
      command: what.command,
      sight,
    },
    {
      npmrc: at.npmrc,
      signal: at.signal,
      hear: what.hear,
      ...(what.input === undefined ? {} : { input: what.input }),
    },
  );
}

/** Says how a command of the runner's own ended. Throws with the reason unless it ended well. */
export function mustEndWell(ended: Ended, what: string): void {
  if (ended.ok) return;
  const why = ended.end.kind === 'walls' ? ended.end.why : JSON.stringify(ended.end);
  throw new Error(`${what} (${why})`);
}
