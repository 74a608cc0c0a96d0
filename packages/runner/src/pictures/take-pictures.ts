import { randomUUID } from 'node:crypto';
import { chmod, copyFile, link, mkdir, readFile, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { type PagesTaken, type PicturesGiven, pictureRoutes } from '@vaquero/contracts';
import type { Digest, Manifest } from '@vaquero/core';
import type { Limits } from '../config.ts';
import type { Anterooms } from '../walls/anteroom.ts';
import { basicEnvironment } from '../walls/basic-environment.ts';
import { runBehindWalls } from '../walls/run-behind-walls.ts';
import { killAll, makeWorkplace, type Slot } from '../walls/slot.ts';
import type { UsedWorkplaces } from '../walls/used-workplaces.ts';
import { insidePaths, type PictureJob } from './picture-job.ts';

/** What taking pictures takes. */
export interface Taking {
  readonly slot: Slot;
  /** Takes away what was left when they are taken. */
  readonly used: Pick<UsedWorkplaces, 'take'>;
  readonly store: string;
  readonly anterooms: Anterooms;
  readonly limits: Limits;
  readonly signal: AbortSignal;
}

const takeWithinMs = 120_000;
/** Ten pages with three pictures each, and room. */
const mostSaidBytes = 60 << 20;
const mostFiles = 20_000;

/** Pages as they were pictured, or why none could be. */
export type Taken =
  | { readonly pages: PagesTaken; readonly why: null }
  | { readonly pages: readonly []; readonly why: string };

/**
 * Pictures the pages of two artifacts behind the walls, under a uid of the project's own: both are served there by a helper of
 * ours, without a network, and what it says is all that comes out. Never rejects for what pages do.
 */
export async function takePictures(taking: Taking, given: PicturesGiven): Promise<Taken> {
  const { slot, used, anterooms, limits, signal } = taking;
  try {
    const [before, after] = await Promise.all([
      readManifest(taking.store, given.before),
      readManifest(taking.store, given.after),
    ]);
    const files = new Set([...before.site.files, ...after.site.files].map((file) => file.digest));
    if (files.size > mostFiles)
      return {
        pages: [],
        why: `the two have ${files.size} files; ${mostFiles} are pictured at most`,
      };
    const now = new Date(given.now).toISOString();
    const job: PictureJob = { now, before, after, pages: given.pages };
    const place = await layOut(taking, job, files);
    const workplace = await makeWorkplace(slot);
    let said = '';
    const ended = await runBehindWalls(
      {
        slot,
        workplace,
        limits: { ...limits, stepMs: Math.min(limits.stepMs, takeWithinMs) },
        network: 'none',
        anterooms,
        environment: basicEnvironment,
        // Builds go first.
        command: ['nice', '-n', '10', 'node', insidePaths.helper],
        sight: {
          tree: 'hidden',
          under: null,
          mounts: [
            { from: place, at: '/pictures', writable: false },
            { from: driverFolder(), at: insidePaths.driver, writable: false },
          ],
          home: workplace.home,
          temporary: workplace.temporary,
          folder: '/tmp',
          release: () => undefined,
        },
      },
      {
        npmrc: '',
        signal,
        hear: (bytes) => {
          said += bytes.toString('latin1');
          return said.length < mostSaidBytes;
        },
      },
    );
    const pages = pagesSaid(said);
    const how = ended.ok ? 'nothing was said of it' : JSON.stringify(ended.end).slice(0, 200);
    if (pages.length === 0)
      return { pages: [], why: `${how} ${lastLine(said)}`.trim().slice(0, 300) };
    const places = new Set(pages.map(({ place: known }) => known));
    const unsaid = given.pages.flatMap((_, known) =>
      places.has(known) ? [] : [{ ...nothingSaid, place: known, why: how }],
    );
    return { pages: [...pages, ...unsaid], why: null };
  } finally {
    await killAll(slot);
    await used.take(slot.directory, `pictures-${randomUUID()}`);
    await mkdir(slot.directory, { mode: 0o711 });
  }
}

/** Files of both by their digests, the job, and the helper: nothing that an artifact says is a path here. */
async function layOut(
  { slot, store }: Taking,
  job: PictureJob,
  digests: ReadonlySet<Digest>,
): Promise<string> {
  const place = join(slot.directory, `given-${randomUUID()}`);
  const helper = join(place, 'helper');
  const files = join(place, 'files');
  for (const folder of [place, files, helper, join(helper, 'node_modules', 'playwright-core')]) {
    await mkdir(folder, { recursive: true });
    await chmod(folder, 0o755);
  }
  await chmod(join(helper, 'node_modules'), 0o755);
  await writeFile(join(place, 'job.json'), JSON.stringify(job), { mode: 0o644 });
  await copyFile(helperFile, join(helper, 'picture-helper.mjs'));
  await chmod(join(helper, 'picture-helper.mjs'), 0o644);
  for (const digest of digests)
    await link(join(store, 'sha256', digest.slice(0, 2), digest), join(files, digest));
  return place;
}

/** The helper as it is built, beside the programs; from the sources the one that was built last. */
const helperFile = new URL(
  import.meta.url.endsWith('.ts')
    ? '../../../../dist/picture-helper/picture-helper.mjs'
    : './picture-helper/picture-helper.mjs',
  import.meta.url,
);

/** Where the package that drives the browser lies. */
function driverFolder(): string {
  return dirname(createRequire(import.meta.url).resolve('playwright-core/package.json'));
}

async function readManifest(store: string, artifact: Digest): Promise<Manifest> {
  const text = await readFile(join(store, 'sha256', artifact.slice(0, 2), artifact), 'utf8');
  return JSON.parse(text) as Manifest;
}

/** The pages among what was said behind the walls, each by itself: whoever got hold of the browser may say anything. */
function pagesSaid(said: string): PagesTaken {
  const pages = said.split('\n').flatMap((line) => {
    const read = pictureRoutes.pagesTaken.element.safeParse({
      ...nothingSaid,
      ...(objectIn(line) ?? { place: null }),
    });
    return read.success ? [read.data] : [];
  });
  return [...new Map(pages.map((page) => [page.place, page])).values()].slice(0, 100);
}

const nothingSaid = { share: null, before: null, after: null, difference: null, why: null };

function objectIn(line: string): object | null {
  if (!line.startsWith('{')) return null;
  try {
    return JSON.parse(line) as object;
  } catch {
    return null; // Not one of the helper's lines.
  }
}

function lastLine(said: string): string {
  return (
    said
      .trim()
      .split('\n')
      .at(-1)
      ?.replace(/[^\x20-\x7e]/g, '') ?? ''
  );
}
