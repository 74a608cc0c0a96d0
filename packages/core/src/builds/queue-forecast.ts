import { nextInQueue, suits, type Waiting } from './next-in-queue.ts';

/** A runner as the queue sees it: how many builds it takes at once, and what it is labelled. */
export interface RunnerNow {
  readonly slots: number;
  readonly labels: readonly string[];
}

/** All that tells when a waiting build will begin. Times in ms; null where no earlier build tells. */
export interface QueueNow {
  readonly waiting: readonly (Waiting & { readonly lastsMs: number | null })[];
  readonly running: readonly { readonly project: string; readonly leftMs: number | null }[];
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
 * Plays the queue forward by the usual times, with the very choice that gives builds to runners. Which
 * runner takes which build is not played: all slots count together, so labels make it a little too hopeful.
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

/** The builds in the order in which they begin, each with when; infinity where nothing tells. */
function playForward(
  { running: begun, runners, lastBegan: earlier, mostOfOneProject }: QueueNow,
  waiting: QueueNow['waiting'],
): readonly { readonly id: string; readonly at: number }[] {
  const slots = runners.reduce((sum, runner) => sum + runner.slots, 0);
  const never = Number.POSITIVE_INFINITY;
  const left = new Map(waiting.map((one) => [one.id, one]));
  const starts: { id: string; at: number }[] = [];
  const lastBegan = new Map(earlier);
  let running = begun.map(({ project, leftMs }) => ({ project, endsAt: leftMs ?? never }));
  for (let at = 0; left.size > 0; ) {
    const may = at === never || running.length < slots;
    const most = at === never ? never : mostOfOneProject;
    const next = may
      ? nextInQueue([...left.values()], { running: countsOf(running), lastBegan }, most)
      : null;
    if (next === null) {
      // Nothing begins before something ends.
      at = Math.min(...running.map((one) => one.endsAt), never);
      const ended = at;
      running = running.filter((one) => ended === never || one.endsAt > ended);
      continue;
    }
    left.delete(next.id);
    starts.push({ id: next.id, at });
    // Later than every instant, in the order of beginning.
    lastBegan.set(next.project, Number.MAX_SAFE_INTEGER - waiting.length + starts.length);
    running.push({ project: next.project, endsAt: at + (next.lastsMs ?? never) });
  }
  return starts;
}

function countsOf(running: readonly { readonly project: string }[]): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const { project } of running) counts.set(project, (counts.get(project) ?? 0) + 1);
  return counts;
}
