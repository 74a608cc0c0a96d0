import { nextInQueue, type Shares, suits, type Waiting } from './next-in-queue.ts';

/** A runner as the queue sees it: how many builds it takes at once, and what it is labelled. */
export interface RunnerNow {
  readonly id: string;
  readonly slots: number;
  readonly labels: readonly string[];
}

/** All that tells when a waiting build will begin. Times in ms; null where no earlier build tells. */
export interface QueueNow {
  readonly waiting: readonly (Waiting & { readonly lastsMs: number | null })[];
  readonly running: readonly {
    readonly project: string;
    readonly runner: string;
    readonly leftMs: number | null;
  }[];
  readonly runners: readonly RunnerNow[];
  /** When a build of each project last began: an instant. */
  readonly lastBegan: ReadonlyMap<string, number>;
  readonly mostOfOneProject: number;
}

/** Where a build stands in the queue. */
export interface QueuePlace {
  /** How many begin before it. */
  readonly ahead: number;
  /** When it will begin, from now; null when that cannot be told. */
  readonly startsInMs: number | null;
  /** Labels that no runner bears which takes builds now; the build waits for one. */
  readonly lacks: readonly string[];
}

/**
 * Plays the queue forward by the usual times, with the very choice that gives builds to runners: each runner
 * with a free slot takes what comes next of the builds that it suits.
 */
export function forecastQueue(now: QueueNow): ReadonlyMap<string, QueuePlace> {
  const fits = (one: Waiting): boolean => now.runners.some((each) => suits(one.needs, each.labels));
  const places = new Map<string, QueuePlace>();
  for (const { id, at } of playForward(now, now.waiting.filter(fits))) {
    const startsInMs = at === Number.POSITIVE_INFINITY ? null : at;
    places.set(id, { ahead: places.size, startsInMs, lacks: [] });
  }
  for (const one of now.waiting.filter((each) => !fits(each))) {
    const lacks = one.needs.filter(
      (label) => !now.runners.some((each) => each.labels.includes(label)),
    );
    places.set(one.id, { ahead: places.size, startsInMs: null, lacks });
  }
  return places;
}

/** A build under way while the queue is played. */
interface Playing {
  readonly project: string;
  readonly runner: string;
  readonly endsAt: number;
}

/** The builds in the order in which they begin, each with when; infinity where nothing tells. */
function playForward(
  { running: begun, runners, lastBegan: earlier, mostOfOneProject }: QueueNow,
  waiting: QueueNow['waiting'],
): readonly { readonly id: string; readonly at: number }[] {
  const never = Number.POSITIVE_INFINITY;
  const left = new Map(waiting.map((one) => [one.id, one]));
  const starts: { id: string; at: number }[] = [];
  const lastBegan = new Map(earlier);
  let running: readonly Playing[] = begun.map(({ project, runner, leftMs }) => ({
    project,
    runner,
    endsAt: leftMs ?? never,
  }));
  for (let at = 0; left.size > 0; ) {
    // Where nothing tells any more, what is left begins in the order of the queue, some time.
    const taking = at === never ? runners : runners.filter((one) => hasFreeSlot(one, running));
    const most = at === never ? never : mostOfOneProject;
    const shares = { running: countsOf(running), lastBegan };
    const next = firstToBegin(taking, [...left.values()], shares, most);
    if (next === null) {
      // Nothing begins before something ends.
      at = Math.min(...running.map((one) => one.endsAt), never);
      const ended = at;
      running = running.filter((one) => ended === never || one.endsAt > ended);
      continue;
    }
    const { build, runner } = next;
    left.delete(build.id);
    starts.push({ id: build.id, at });
    // Later than every instant, in the order of beginning.
    lastBegan.set(build.project, Number.MAX_SAFE_INTEGER - waiting.length + starts.length);
    const endsAt = at + (build.lastsMs ?? never);
    running = [...running, { project: build.project, runner: runner.id, endsAt }];
  }
  return starts;
}

function hasFreeSlot({ id, slots }: RunnerNow, running: readonly Playing[]): boolean {
  return running.filter((one) => one.runner === id).length < slots;
}

function firstToBegin(
  taking: readonly RunnerNow[],
  waiting: QueueNow['waiting'],
  shares: Shares,
  most: number,
): { readonly build: QueueNow['waiting'][number]; readonly runner: RunnerNow } | null {
  for (const runner of taking) {
    const suited = waiting.filter((one) => suits(one.needs, runner.labels));
    const build = nextInQueue(suited, shares, most);
    if (build !== null) return { build, runner };
  }
  return null;
}

function countsOf(running: readonly { readonly project: string }[]): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const { project } of running) counts.set(project, (counts.get(project) ?? 0) + 1);
  return counts;
}
