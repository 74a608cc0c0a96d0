import { availableParallelism } from 'node:os';
import {
  type BuildFailure,
  type Digest,
  isReusable,
  orderSteps,
  type RecipeStep,
  stepsBefore,
} from '@vaquero/core';
import type { Output, OutputStore } from '../outputs/output-store.ts';
import type { BuildAt } from './build-at.ts';
import { runStep } from './run-step.ts';
import { reportOf } from './step-reports.ts';
import { cachesInTree, type HandedOn, writtenPaths } from './step-sight.ts';

/** What came of a recipe's steps: why the build failed, or what its steps handed on. */
export interface GraphEnd {
  /** Settles when the results of steps are noted; awaited before the build ends. */
  readonly noted: Promise<unknown>;
  readonly failure: BuildFailure | null;
  readonly handedOn: readonly HandedOn[];
}

/** What is known of steps whose inputs are, as it was asked for. */
export type KnownSteps = ReturnType<BuildAt['api']['known']> | null;
type Known = Awaited<ReturnType<BuildAt['api']['known']>>[number];

/** A graph of steps under way. */
interface Graph {
  readonly at: BuildAt;
  readonly source: string;
  readonly order: readonly RecipeStep[];
  readonly before: ReadonlyMap<string, ReadonlySet<string>>;
  readonly started: Set<string>;
  /** Steps that have ended so that others may begin after them. */
  readonly ended: Set<string>;
  readonly outputs: Map<string, HandedOn>;
  readonly known: Map<string, Known>;
  failure: BuildFailure | null;
  /** Results on their way to be noted: nothing that comes after a step hangs on it. */
  readonly noting: Promise<void>[];
  /** What was asked before any step had an output. */
  readonly early: KnownSteps;
  /** How many outputs were there when it was last asked what is known. */
  askedWith: number;
}

/**
 * Asks, while the source still comes, what is known of the steps that hang on nothing but it; null where none can be.
 * `learned` are versions of programs that the service has not heard of yet.
 */
export function askWhatIsKnown(
  at: BuildAt,
  learned: Readonly<Record<string, string>> | null,
): KnownSteps {
  const mayBeKnown = !at.withoutWalls && at.given.recipe.steps.some(isReusable);
  if (!mayBeKnown && learned === null) return null;
  const asked = at.api.known({ outputs: {}, ...(learned === null ? {} : { tools: learned }) });
  asked.catch(() => undefined); // Whoever uses it hears of the failure; a build that ends before does not need it.
  return asked;
}

/**
 * Runs the steps of a recipe: each once all it comes after has ended well, side by side as far as the
 * machine has processors, and not at all where its result is known. After a failure nothing more starts;
 * what runs is heard to its end, since its reports tell more about the same commit.
 */
export async function runGraph(at: BuildAt, source: string, early: KnownSteps): Promise<GraphEnd> {
  const ordered = orderSteps(at.given.recipe.steps);
  if ('faults' in ordered)
    return {
      failure: { reason: 'recipe-invalid', file: 'the recipe', faults: [] },
      handedOn: [],
      noted: Promise.resolve(),
    };
  const graph: Graph = {
    at,
    source,
    order: ordered.order,
    before: stepsBefore(ordered.order),
    started: new Set(),
    ended: new Set(),
    outputs: new Map(),
    known: new Map(),
    failure: null,
    noting: [],
    early,
    askedWith: -1,
  };
  const running = new Map<RecipeStep, Promise<void>>();
  let thrown: { readonly error: unknown } | null = null;
  const most = Math.max(2, availableParallelism());
  for (;;) {
    const goesOn = (): boolean => graph.failure === null && thrown === null;
    // What it throws is heard when all that runs has ended, as what a step throws.
    if (goesOn())
      await useWhatIsKnown(graph).catch((error: unknown) => {
        thrown ??= { error };
      });
    // A step may have failed while it was asked: nothing starts after that.
    for (const step of goesOn() ? readySteps(graph) : []) {
      if (running.size >= most || !mayBegin(graph, step, running.keys())) continue;
      graph.started.add(step.name);
      const run = runOne(graph, step)
        // Heard when all have ended: what one throws must not leave another running in a workplace that is taken away.
        .catch((error: unknown) => {
          thrown ??= { error };
        })
        .finally(() => running.delete(step));
      running.set(step, run);
    }
    if (running.size === 0) break;
    await Promise.race(running.values());
  }
  if (thrown !== null) throw (thrown as { readonly error: unknown }).error;
  const left = graph.order.filter((step) => !graph.started.has(step.name));
  at.steps.tell(left.map((step) => reportOf(at, step, 'skipped')));
  const noted = Promise.all(graph.noting);
  noted.catch(() => undefined); // As above.
  return { failure: graph.failure, handedOn: [...graph.outputs.values()], noted };
}

function readySteps({ order, started, ended }: Graph): readonly RecipeStep[] {
  return order.filter(
    (step) => !started.has(step.name) && step.after.every((name) => ended.has(name)),
  );
}

/**
 * Whether a step may begin beside those that run. One that shares its tree with others and has mounts in it waits until
 * none of them runs: what runs there could lead its mounts elsewhere while they are made.
 */
function mayBegin(graph: Graph, step: RecipeStep, running: Iterable<RecipeStep>): boolean {
  if (isReusable(step) || graph.at.withoutWalls) return true;
  const others = [...running].filter((other) => !isReusable(other));
  const hasMounts = (one: RecipeStep): boolean =>
    cachesInTree(one).length > 0 ||
    [...(graph.before.get(one.name) ?? [])].some((name) => graph.outputs.has(name));
  return others.length === 0 || ![step, ...others].some(hasMounts);
}

/** Takes over, without running, every step whose result is known. Keys hang on outputs: each new one may tell more. */
async function useWhatIsKnown(graph: Graph): Promise<void> {
  const { at, known, outputs } = graph;
  const mayTell = readySteps(graph).some(isReusable) && graph.askedWith !== outputs.size;
  if (!mayTell || at.withoutWalls) return;
  const digests = Object.fromEntries(
    [...outputs].map(([name, { output }]) => [name, output.digest]),
  );
  const asked =
    outputs.size === 0 && graph.early !== null ? graph.early : at.api.known({ outputs: digests });
  for (const one of await asked) known.set(one.name, one);
  if (at.given.earlier === 'used') await takeOver(graph);
  graph.askedWith = outputs.size;
}

async function takeOver(graph: Graph): Promise<void> {
  const { at, known, started, ended } = graph;
  const reports = [];
  for (const step of graph.order) {
    const found = known.get(step.name)?.found ?? null;
    const isDue = !started.has(step.name) && step.after.every((name) => ended.has(name));
    // An output that neither this machine nor another keeps is made again.
    const output =
      found === null || !isDue
        ? null
        : ((await at.outputs.find(found.output)) ?? (await at.shared.take(at, found.output)));
    if (found === null || output === null) continue;
    started.add(step.name);
    ended.add(step.name);
    handOn(graph, step, output);
    const { build, at: then, tookMs } = found;
    const logFrom = at.log.length();
    const when = new Date(then).toISOString().slice(0, 16).replace('T', ' ');
    const saved = (tookMs / 1000).toFixed(1);
    say(at, step, `reused from build ${build}, run ${when} UTC: ${saved} s saved`);
    reports.push(reportOf(at, step, 'reused', { reused: { build, at: then, tookMs }, logFrom }));
  }
  at.steps.tell(reports);
}

async function runOne(graph: Graph, step: RecipeStep): Promise<void> {
  const { at } = graph;
  // Ended meanwhile: nothing begins any more.
  at.signal.throwIfAborted();
  const logFrom = at.log.length();
  at.steps.tell([reportOf(at, step, 'running', { logFrom })]);
  const names = graph.before.get(step.name) ?? new Set();
  const handed = [...graph.outputs].flatMap(([name, one]) => (names.has(name) ? [one] : []));
  const outcome = await runStep(at, step, handed, graph.source);
  const { tries } = outcome;
  if (outcome.ok) {
    if (outcome.output !== null) {
      handOn(graph, step, outcome.output);
      const noting = noteResult(graph, step, outcome.output, outcome.tookMs, tries);
      noting.catch(() => undefined); // Whoever ends the build hears of it.
      graph.noting.push(noting);
    }
    graph.ended.add(step.name);
    at.steps.tell([reportOf(at, step, tries > 1 ? 'flaky' : 'passed', { tries, logFrom })]);
    return;
  }
  const isWarning = step.failure === 'warns';
  if (isWarning) graph.ended.add(step.name);
  else graph.failure ??= outcome.failure;
  at.steps.tell([reportOf(at, step, isWarning ? 'warned' : 'failed', { tries, logFrom })]);
}

function handOn(graph: Graph, step: RecipeStep, output: Output): void {
  graph.outputs.set(step.name, { writes: writtenPaths(step), output });
}

function say(at: BuildAt, step: RecipeStep, line: string): void {
  at.log.say(Buffer.from(`${line}\n`), step.name);
}

/** Notes what a step wrote under its key, and says it when the same inputs gave other bytes than before. */
async function noteResult(
  { at, known: all }: Graph,
  step: RecipeStep,
  output: Output,
  tookMs: number,
  tries: number,
): Promise<void> {
  const known = all.get(step.name);
  // A flaky step's result hung on more than its inputs: it is not used again.
  if (known === undefined || tries > 1) return;
  const { digest, files, bytes } = output;
  const result = { step: step.name, key: known.key, output: digest, files, bytes, tookMs };
  const differs = await at.api.result(result);
  at.shared.give(output);
  if (differs === null) return;
  const names = await differingFiles(at.outputs, differs as Digest, output);
  const list = names === null ? 'its files are no longer kept' : names.slice(0, 20).join(', ');
  say(at, step, `not reproducible: same inputs as an earlier build, other output: ${list}`);
  await at.api.report({
    step: step.name,
    kind: 'differences',
    path: writtenPaths(step).join(' '),
    text: JSON.stringify({ files: names ?? [], with: known.found?.build ?? null }),
  });
}

async function differingFiles(
  outputs: OutputStore,
  earlier: Digest,
  now: Output,
): Promise<readonly string[] | null> {
  const output = await outputs.find(earlier);
  if (output === null) return null;
  const left = new Map((await output.list()).map((file) => [file.path, file.digest]));
  const right = new Map((await now.list()).map((file) => [file.path, file.digest]));
  return [...new Set([...left.keys(), ...right.keys()])]
    .filter((path) => left.get(path) !== right.get(path))
    .map((path) => path.replace(/^\d+\//, ''))
    .sort();
}
