import { chmod, chown, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { type BuildFailure, isReusable, orderSteps } from '@vaquero/core';
import type { BuildAt } from '../builds/build-at.ts';
import type { Workplace } from '../walls/slot.ts';
import { inTree, mustEndWell } from './in-tree.ts';
import { openLayered } from './layered.ts';
import { makeMountPoints } from './mount-points.ts';
import type { KeptSource, SourceCache } from './source-cache.ts';
import { unpackInto } from './unpack.ts';

/** The commit's tree as the steps of a build find it. */
export interface Fetched {
  readonly workplace: Workplace;
  /** The tree as steps that say what they read shall see it: nothing but what was committed. */
  readonly source: string;
  readonly close: () => Promise<void>;
}

/** Brings the commit's tree into the workplace of a build, or says why it cannot. */
export async function fetchSource(at: BuildAt): Promise<Fetched | { failure: BuildFailure }> {
  try {
    return await withMountPoints(at, await fetchTree(at));
  } catch (error) {
    if (at.signal.aborted) throw error;
    const why = error instanceof Error ? error.message : String(error);
    return { failure: { reason: 'source', why } };
  }
}

async function fetchTree(at: BuildAt): Promise<Fetched> {
  if (at.sources === null) {
    await unpackWhole(at);
    const close = (): Promise<void> => Promise.resolve();
    return { workplace: at.workplace, source: await copyIfMixed(at), close };
  }
  const source = await keptSource(at, at.sources);
  return (await lentTo(at, at.sources, source)) ?? (await layersOver(at, source));
}

async function withMountPoints(at: BuildAt, fetched: Fetched): Promise<Fetched> {
  const ordered = orderSteps(at.given.recipe.steps);
  if ('faults' in ordered) return fetched;
  try {
    const points = await makeMountPoints(at, fetched.source, ordered.order);
    return {
      ...fetched,
      close: async () => {
        try {
          await points.remove();
        } finally {
          await fetched.close();
        }
      },
    };
  } catch (error) {
    await fetched.close();
    throw error;
  }
}

/** What was built here before needs only what changed since; all else is fetched whole. */
async function keptSource(at: BuildAt, sources: SourceCache): Promise<KeptSource> {
  const { commit, sight, since } = at.given;
  const kept = sources.newest(at.slot, sight);
  const turned =
    since === null || since.commit !== kept?.commit
      ? null
      : await sources.turn(at.slot, sight, commit, since.changes);
  return turned ?? (await wholeSource(at, sources));
}

async function wholeSource(at: BuildAt, sources: SourceCache): Promise<KeptSource> {
  const { tree } = at.workplace;
  await unpackWhole(at);
  // Its owner may close it; the folder itself is shown to steps by others' hands.
  const source = await sources.keep(at.slot, at.given.sight, at.given.commit, tree);
  await chmod(source.folder, 0o755);
  await mkdir(tree, { mode: 0o700 });
  if (at.slot.uid !== null) await chown(tree, at.slot.uid, at.slot.uid);
  return source;
}

/**
 * Steps that all write as they please get the kept tree itself: writing to a layer takes half as long again, and
 * what they leave is told by the file system and taken out when they have ended.
 */
async function lentTo(
  at: BuildAt,
  sources: SourceCache,
  source: KeptSource,
): Promise<Fetched | null> {
  const { steps } = at.given.recipe;
  if (steps.length === 0 || steps.some(isReusable)) return null;
  const lent = await sources.lend(at.slot, at.given.sight, source);
  if (lent === null) return null;
  const { folder, paths, giveBack } = lent;
  const workplace = { ...at.workplace, tree: folder, committed: paths };
  return { workplace, source: folder, close: giveBack };
}

/**
 * Shows the kept tree where steps write as they please, so that they write beside it. Where other steps say
 * what they read, those see a tree of their own: what the first left there would be an input no key knows of.
 */
async function layersOver(at: BuildAt, { folder }: KeptSource): Promise<Fetched> {
  const { steps } = at.given.recipe;
  const { directory, tree } = at.workplace;
  const { uid } = at.slot;
  if (steps.every(isReusable)) {
    // Nothing writes to it, and it becomes the next commit's: its files are not to be taken from it.
    return {
      workplace: {
        ...at.workplace,
        tree: folder,
        layer: { shown: folder, below: folder, written: null },
      },
      source: folder,
      close: () => Promise.resolve(),
    };
  }
  const open = await openLayered(folder, tree, join(directory, 'layer'), uid);
  const layer = { shown: tree, below: folder, written: open.written };
  const workplace = { ...at.workplace, layer };
  if (!steps.some(isReusable)) return { workplace, source: tree, close: open.close };
  const pristine = join(directory, 'source');
  await mkdir(pristine, { mode: 0o755 });
  const second = await openLayered(folder, pristine, join(directory, 'source-layer'), uid);
  return {
    workplace,
    source: pristine,
    close: async () => {
      await second.close();
      await open.close();
    },
  };
}

async function copyIfMixed(at: BuildAt): Promise<string> {
  const { steps } = at.given.recipe;
  const isMixed = steps.some(isReusable) && !steps.every(isReusable) && !at.withoutWalls;
  if (!isMixed) return at.workplace.tree;
  const source = join(at.workplace.directory, 'source');
  await mkdir(source, { mode: 0o755 });
  if (at.slot.uid !== null) await chown(source, at.slot.uid, at.slot.uid);
  const ended = await inTree(at, {
    command: ['/bin/cp', '-a', '--', '/build/.', '/tmp/source/'],
    tree: { folder: at.workplace.tree, isWritable: true },
    mounts: [{ from: source, at: '/tmp/source', writable: true }],
    hear: (bytes) => at.log.say(bytes, 'fetch'),
  });
  mustEndWell(ended, 'the tree could not be copied');
  // Its owner may close it; steps are shown it by others' hands.
  await chmod(source, 0o755);
  return source;
}

async function unpackWhole(at: BuildAt): Promise<void> {
  const response = await at.api.source(at.signal);
  if (response.body === null) throw new Error('the api sent no tree');
  await unpackInto(at, at.workplace.tree, Readable.fromWeb(response.body as ReadableStream));
}
