import { CallRefused, ServiceUnreachable, type StepReport } from '@vaquero/contracts';
import { type BuildFailure, type Instant, pagesStep, programsOf, type Serve } from '@vaquero/core';
import { pagesBefore } from '../artifacts/committed-pages.ts';
import { type Found, findFurther, findSite, type OpenFolder } from '../artifacts/find-site.ts';
import { type Difference, differenceFrom, type Told } from '../artifacts/last-proposed.ts';
import type { StoredFile } from '../artifacts/store-files.ts';
import { storeSite } from '../artifacts/store-site.ts';
import { fetchSource } from '../sources/fetch-source.ts';
import { inTree } from '../sources/in-tree.ts';
import { makeWorkplace } from '../walls/slot.ts';
import { AttemptOver } from './attempt-client.ts';
import type { BuildAt, BuildRun } from './build-at.ts';
import { builtAs } from './built-as.ts';
import { makeLogSender } from './log-sender.ts';
import { askWhatIsKnown, type GraphEnd, type KnownSteps, runGraph } from './run-graph.ts';
import { makeMask } from './secret-mask.ts';
import { makeStepTeller } from './step-reports.ts';
import type { HandedOn } from './step-sight.ts';

/**
 * Runs one attempt from the source to the proposed artifact; whatever happens, the api is told once how
 * it ended. Throws only when the api says that the attempt is over or stays away.
 */
export async function runBuild(run: BuildRun): Promise<void> {
  const log = makeLogSender(run.api.log, run.limits.logBytes, run.giveUp, run.clock);
  const workplace = await makeWorkplace(run.slot);
  const mask = makeMask(run.given.given.filter((one) => one.secret));
  const steps = makeStepTeller(run.api.steps, run.giveUp);
  const reports = { reports: 0, bytes: 0 };
  const at: BuildAt = { ...run, workplace, log, mask, steps, reports };
  let failure: BuildFailure | null;
  try {
    failure = await buildAndPropose(at).catch((error: unknown) => faultOf(at, error));
  } finally {
    // Before anybody hears of the end: the next build finds the room that this one took.
    await run.used.take(workplace.directory, run.given.attempt);
  }
  if (failure === null) return;
  await Promise.all([log.flush(), steps.flush()]);
  await run.api.fail(failure);
}

/**
 * What a build throws outside its steps ends that build, with the reason: another attempt would end in the same way.
 * Throws on what is no fault of the build's: an api that is away or says that the attempt is over.
 */
function faultOf(at: BuildAt, error: unknown): BuildFailure {
  const isOfTheApi =
    error instanceof AttemptOver ||
    error instanceof CallRefused ||
    error instanceof ServiceUnreachable ||
    (error instanceof TypeError && error.message === 'fetch failed');
  if (at.signal.aborted || isOfTheApi) throw error;
  at.told.delete(builtAs(at.given));
  at.faulty(error);
  const why = error instanceof Error ? error.message : String(error);
  return { reason: 'runner-fault', why: why.replaceAll(at.workplace.directory, '').slice(0, 500) };
}

async function buildAndPropose(at: BuildAt): Promise<BuildFailure | null> {
  const says = `the tree of ${at.given.commit.slice(0, 12)}`;
  tell(at, { name: 'fetch', place: 0, says, state: 'running', logFrom: at.log.length() });
  const known = askWhatIsKnown(at, (await learnTools(at)) ? at.tools.known() : null);
  const fetched = await fetchSource(at);
  const isThere = !('failure' in fetched);
  tell(at, { name: 'fetch', place: 0, says, state: isThere ? 'passed' : 'failed' });
  if (!isThere) return fetched.failure;
  try {
    return await runSteps({ ...at, workplace: fetched.workplace }, fetched.source, known);
  } finally {
    await fetched.close();
  }
}

/** Asks for the versions of programs that the steps start and nobody has asked for yet; whether there were any. */
function learnTools(at: BuildAt): Promise<boolean> {
  const programs = [...new Set(at.given.recipe.steps.flatMap(programsOf))];
  const there = async (command: readonly string[]): Promise<string> => {
    let said = '';
    const hear = (bytes: Buffer): boolean => {
      said += bytes.toString();
      return said.length < 100_000;
    };
    await inTree(at, { command, tree: null, hear, stepMs: 30_000 });
    return said;
  };
  return at.tools.learn(programs, there);
}

async function runSteps(
  at: BuildAt,
  source: string,
  known: KnownSteps,
): Promise<BuildFailure | null> {
  const { recipe } = at.given;
  const { serve } = recipe;
  // Only a folder that nobody has named for good asks which pages the build made and which it found.
  const isGuess = at.given.recipeIs === 'proposed';
  const isOpen = serve !== null && (serve.site === null || isGuess);
  const before = isOpen ? pagesBefore(at.workplace.tree, serve.entry) : new Map();
  const ran = recipe.steps.some((step) => step.name === pagesStep);
  const graph = await runGraph(at, source, known);
  if (serve !== null && graph.failure === null)
    return storeOutput(at, serve, { isGuess, ran, before }, graph);
  await Promise.all([at.log.flush(), at.steps.flush(), graph.noted]);
  if (graph.failure !== null) return graph.failure;
  await at.api.pass();
  return null;
}

function tell(
  at: BuildAt,
  step: Pick<StepReport, 'name' | 'place' | 'says' | 'state'> & Partial<StepReport>,
): void {
  at.steps.tell([{ after: [], tries: 1, at: at.clock(), logFrom: null, reused: null, ...step }]);
}

async function storeOutput(
  at: BuildAt,
  serve: Serve,
  open: OpenFolder,
  { handedOn, noted }: Pick<GraphEnd, 'handedOn' | 'noted'>,
): Promise<BuildFailure | null> {
  const place = at.given.recipe.steps.length + 1;
  const since = at.clock();
  const report = (state: StepReport['state'], when: Instant): void =>
    tell(at, { name: 'store', place, says: 'walk, hash and keep the output', state, at: when });
  // The proposal says that storing began and ended; only what takes long is told before.
  const late = setTimeout(() => report('running', since), toldAfterMs);
  const failed = async (failure: BuildFailure): Promise<BuildFailure> => {
    report('running', since);
    report('failed', at.clock());
    await noted;
    return failure;
  };
  // A store elsewhere takes files for an upload that is open.
  const upload = at.storeElsewhere ? at.api.openUpload() : null;
  upload?.catch(() => undefined); // Whoever awaits it below hears of it; a build cancelled meanwhile ends no runner.
  const project = builtAs(at.given);
  const storeAndPropose = async (
    found: Site,
    further: readonly Further[],
    told: Told | null,
  ): Promise<boolean> => {
    const proposal = { upload: (await upload) ?? null, since, site: found.site, serve };
    const files = await storeAll(at, found, further, told);
    const difference = differenceFrom(told, files);
    if (proposal.upload !== null) await bring(at, proposal.upload, difference.files);
    // The proposal says that storing is over, and what was stored: nothing else is told of it after that.
    clearTimeout(late);
    await Promise.all([at.log.flush(), at.steps.flush(), noted]);
    return propose(at, proposal, difference, files);
  };
  try {
    const found = await findSite(at.workplace, serve, open, handedOn);
    if (!found.ok) return await failed(found.failure);
    const further = await findAllFurther(at, serve, found, handedOn);
    if ('failure' in further) return await failed(further.failure);
    if (await storeAndPropose(found, further.all, at.told.get(project) ?? null)) return null;
    // What the service was told of last is not kept any more: all of it is stored, and told, anew.
    at.told.delete(project);
    await storeAndPropose(found, further.all, null);
    return null;
  } catch (error) {
    if (!isOfTheDisk(error)) throw error;
    return await failed({ reason: 'store', why: error.message });
  } finally {
    clearTimeout(late);
  }
}

/** So long a storing goes on before it is told that it does. */
const toldAfterMs = 250;

type Site = Extract<Found, { ok: true }>;

/** A further folder of a site, and the prefix at which its files are answered. */
interface Further {
  readonly at: string;
  readonly found: Site;
}

/** Finds the further folders that a recipe names; none may hold what another would hide. */
async function findAllFurther(
  at: BuildAt,
  { sites }: Serve,
  main: Site,
  handedOn: readonly HandedOn[],
): Promise<{ readonly all: readonly Further[] } | { readonly failure: BuildFailure }> {
  const all: Further[] = [];
  for (const [prefix, folder] of Object.entries(sites ?? {})) {
    const found = await findFurther(at.workplace, folder, handedOn);
    if (!found.ok) return { failure: found.failure };
    all.push({ at: prefix, found });
  }
  const folders = [{ at: '', found: main }, ...all];
  for (const { at: outer, found } of folders)
    for (const { at: inner, found: other } of all) {
      const start = outer === '' ? inner : inner.slice(outer.length + 1);
      if (inner === outer || !(outer === '' || inner.startsWith(`${outer}/`))) continue;
      const hidden = found.files.find(({ path }) => path === start || path.startsWith(`${start}/`));
      if (hidden === undefined) continue;
      const { path } = hidden;
      return { failure: { reason: 'sites-overlap', site: found.site, path, other: other.site } };
    }
  return { all };
}

/** Stores all folders of a site, the files of each further one by the path at which they are answered. */
async function storeAll(
  at: BuildAt,
  main: Site,
  further: readonly Further[],
  told: Told | null,
): Promise<readonly StoredFile[]> {
  const stored = [...(await storeSite(at.store, main, at.workplace.layer, told))];
  for (const { at: prefix, found } of further) {
    const files = await storeSite(at.store, found, at.workplace.layer, null);
    stored.push(...files.map((file) => ({ ...file, path: `${prefix}/${file.path}` })));
  }
  return stored;
}

interface Proposing {
  readonly upload: string | null;
  readonly since: Instant;
  readonly site: string;
  readonly serve: Serve;
}

/** Proposes what was stored, by what differs from the last output of the project; false when that is not kept any more. */
async function propose(
  at: BuildAt,
  { upload, since, site, serve }: Proposing,
  { files: named, like }: Difference,
  files: readonly StoredFile[],
): Promise<boolean> {
  const artifact = await at.api.propose({
    upload,
    since,
    site,
    entry: serve.entry,
    missing: serve.missing,
    files: [...named],
    like: like && { artifact: like.artifact, without: [...like.without] },
  });
  if (artifact === null) return false;
  const project = builtAs(at.given);
  at.told.delete(project);
  at.told.set(project, { artifact, files: new Map(files.map((file) => [file.path, file])) });
  for (const [oldest] of at.told) {
    if (at.told.size <= mostTold) break;
    at.told.delete(oldest);
  }
  return true;
}

/** So many files are on their way at once. */
const mostAtOnce = 8;

/** Brings files to a store on another machine: each new content once. */
async function bring(at: BuildAt, upload: string, files: readonly StoredFile[]): Promise<void> {
  const left = [...new Set(files.map((file) => file.digest))];
  const work = async (): Promise<void> => {
    for (let digest = left.pop(); digest !== undefined; digest = left.pop())
      await at.api.uploadBlob(upload, digest, at.store.pathOf(digest));
  };
  await Promise.all(Array.from({ length: mostAtOnce }, work));
}

/** Of so many projects the newest output is remembered. */
const mostTold = 16;

function isOfTheDisk(error: unknown): error is Error {
  return error instanceof Error && /^(?:ENOSPC|EROFS|EIO|EMLINK|EDQUOT)\b/.test(error.message);
}
