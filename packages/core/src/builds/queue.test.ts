import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { descents } from './chart-rows.ts';
import { criticalPath, usualTime } from './critical-path.ts';
import { saidLines } from './log-lines.ts';
import { nextInQueue, type Shares, suits } from './next-in-queue.ts';
import { forecastQueue } from './queue-forecast.ts';
import { forecastSteps } from './step-forecast.ts';

const shares = (
  running: Readonly<Record<string, number>> = {},
  lastBegan: Readonly<Record<string, number>> = {},
): Shares => ({
  running: new Map(Object.entries(running)),
  lastBegan: new Map(Object.entries(lastBegan)),
});

/** A step with its times. */
const step = (
  name: string,
  startedAt: number | null,
  endedAt: number | null,
  ...after: string[]
) => ({
  name,
  after,
  startedAt,
  endedAt,
});

test('a project that queues a hundred builds does not hold up the others', () => {
  const many = Array.from({ length: 100 }, (_, place) => ({
    id: `a${place}`,
    project: 'a',
    priority: 0,
    needs: [],
  }));
  const other = { id: 'b', project: 'b', priority: 0, needs: [] };
  assert.equal(nextInQueue([...many, other], shares(), 4)?.id, 'a0');
  assert.equal(nextInQueue([...many, other], shares({ a: 1 }), 4)?.id, 'b');
  assert.equal(nextInQueue(many, shares({ a: 4 }), 4), null);
  const urgent = { id: 'u', project: 'a', priority: 1, needs: [] };
  assert.equal(nextInQueue([...many, urgent], shares(), 4)?.id, 'u');
  // On a single slot nothing runs when the next is chosen: projects take turns all the same.
  assert.equal(nextInQueue([...many, other], shares({}, { a: 20, b: 10 }), 4)?.id, 'b');
  assert.equal(nextInQueue([...many, other], shares({}, { a: 20, b: 30 }), 4)?.id, 'a0');
});

test('a waiting build is told how many begin before it and when, by the usual times', () => {
  const one = (id: string, project: string, lastsMs: number | null, more = {}) => ({
    id,
    project,
    priority: 0,
    needs: [] as string[],
    lastsMs,
    ...more,
  });
  const runners = [{ id: 'r', slots: 2, labels: ['large'] }];
  const now = {
    waiting: [
      one('a2', 'a', 50),
      one('a3', 'a', 50),
      one('b1', 'b', 30),
      one('urgent', 'a', 10, { priority: 2 }),
    ],
    running: [
      { project: 'a', runner: 'r', leftMs: 40 },
      { project: 'c', runner: 'r', leftMs: 100 },
    ],
    runners,
    lastBegan: new Map([['a', 1]]),
    mostOfOneProject: 4,
  };
  const places = forecastQueue(now);
  // When a's build has ended its urgent one comes first; then it is the other project's turn.
  assert.deepEqual(
    [...places].map(([id, place]) => [id, place.ahead, place.startsInMs]),
    [
      ['urgent', 0, 40],
      ['b1', 1, 50],
      ['a2', 2, 80],
      ['a3', 3, 100],
    ],
  );
  // A time that nobody knows makes all behind it unknown; the order stays.
  const unknown = forecastQueue({
    ...now,
    running: now.running.map((each) => ({ ...each, leftMs: null })),
  });
  assert.deepEqual(
    [...unknown].map(([id, place]) => [id, place.startsInMs]),
    [
      ['b1', null],
      ['urgent', null],
      ['a2', null],
      ['a3', null],
    ],
  );
  assert.equal(forecastQueue({ ...now, runners: [] }).get('b1')?.startsInMs, null);
  const limited = forecastQueue({ ...now, running: [], mostOfOneProject: 1 });
  assert.deepEqual([...limited.keys()], ['urgent', 'b1', 'a2', 'a3']);
});

test('a build waits for a runner that bears its labels, and is told which are missing', () => {
  assert.ok(suits([], []) && suits(['arm'], ['large', 'arm']) && !suits(['arm', 'quiet'], ['arm']));
  const waiting = [
    { id: 'x', project: 'a', priority: 0, needs: ['arm', 'quiet'], lastsMs: 5 },
    { id: 'y', project: 'a', priority: 0, needs: ['arm'], lastsMs: 5 },
  ];
  const places = forecastQueue({
    waiting,
    running: [],
    runners: [{ id: 'r', slots: 1, labels: ['arm'] }],
    lastBegan: new Map(),
    mostOfOneProject: 4,
  });
  assert.deepEqual(places.get('y'), { ahead: 0, startsInMs: 0, lacks: [] });
  assert.deepEqual(places.get('x'), { ahead: 1, startsInMs: null, lacks: ['quiet'] });
});

test('a build that one runner alone suits waits for that one; others take what is left', () => {
  const of = (id: string, needs: string[], lastsMs = 10) => ({
    id,
    project: id,
    priority: 0,
    needs,
    lastsMs,
  });
  const now = {
    waiting: [of('a', ['large'], 50), of('b', ['large']), of('c', []), of('d', [])],
    running: [{ project: 'z', runner: 'large', leftMs: 100 }],
    runners: [
      { id: 'large', slots: 1, labels: ['large'] },
      { id: 'small', slots: 1, labels: [] },
    ],
    lastBegan: new Map(),
    mostOfOneProject: 4,
  };
  const startsOf = (queue: typeof now) =>
    Object.fromEntries([...forecastQueue(queue)].map(([id, place]) => [id, place.startsInMs]));
  assert.deepEqual(startsOf(now), { c: 0, d: 10, a: 100, b: 150 });
  // What runs on a runner that is gone frees no slot of those that are there.
  const gone = [{ project: 'z', runner: 'gone', leftMs: 5 }];
  assert.deepEqual(startsOf({ ...now, running: gone }), { a: 0, c: 0, d: 10, b: 50 });
});

/** Queues over few projects, labels and runners, so that they meet. */
const queues = fc.record({
  waiting: fc
    .array(
      fc.record({
        project: fc.constantFrom('a', 'b', 'c'),
        priority: fc.constantFrom(0, 1, 2),
        needs: fc.subarray(['large', 'arm']),
        lastsMs: fc.integer({ min: 1, max: 50 }),
      }),
      { maxLength: 12 },
    )
    .map((all) => all.map((one, place) => ({ ...one, id: String(place) }))),
  runners: fc
    .array(
      fc.record({
        slots: fc.integer({ min: 1, max: 3 }),
        labels: fc.subarray(['large', 'arm']),
      }),
      { maxLength: 3 },
    )
    .map((all) => all.map((one, place) => ({ ...one, id: `r${place}` }))),
  mostOfOneProject: fc.integer({ min: 1, max: 3 }),
});

test('whatever waits, each build is foretold once, none before it may begin, and no runner has more than its slots', () => {
  fc.assert(
    fc.property(queues, ({ waiting, runners, mostOfOneProject }) => {
      const now = { waiting, running: [], runners, lastBegan: new Map(), mostOfOneProject };
      const places = forecastQueue(now);
      assert.deepEqual([...places.keys()].sort(), waiting.map((one) => one.id).sort());
      assert.deepEqual(
        [...places.values()].map((place) => place.ahead),
        waiting.map((_, place) => place),
      );
      const begun = waiting.flatMap((one) => {
        const from = places.get(one.id)?.startsInMs ?? null;
        const fits = runners.some((runner) => suits(one.needs, runner.labels));
        assert.equal(
          from !== null,
          fits,
          'a build that some runner suits begins, any other does not',
        );
        return from === null ? [] : [{ ...one, from, to: from + one.lastsMs }];
      });
      for (const { from: at } of begun) {
        const under = begun.filter((one) => one.from <= at && at < one.to);
        const slots = runners.reduce((sum, runner) => sum + runner.slots, 0);
        assert.ok(under.length <= slots, 'all slots together');
        for (const label of ['large', 'arm']) {
          const bearing = runners.filter((runner) => runner.labels.includes(label));
          const most = bearing.reduce((sum, runner) => sum + runner.slots, 0);
          assert.ok(under.filter((one) => one.needs.includes(label)).length <= most, label);
        }
        for (const project of ['a', 'b', 'c'])
          assert.ok(under.filter((one) => one.project === project).length <= mostOfOneProject);
      }
    }),
    { numRuns: 300 },
  );
});

test('the critical path goes back from the end by what each step waited for longest', () => {
  const steps = [
    step('fetch', 0, 2),
    step('packages', 2, 20, 'fetch'),
    step('lint', 2, 5, 'fetch'),
    step('unit', 20, 25, 'packages'),
    step('pages', 20, 40, 'packages', 'lint'),
    step('links', null, null, 'pages'),
  ];
  assert.deepEqual([...criticalPath(steps, 50)], ['pages', 'packages', 'fetch']);
  assert.deepEqual([...criticalPath([], 50)], []);
});

test('steps to come are foretold along the graph, and not behind what nothing is known of', () => {
  const steps = [
    step('fetch', 0, 10),
    step('packages', 10, null, 'fetch'),
    step('lint', 10, null, 'fetch'),
    step('pages', null, null, 'packages', 'lint'),
    step('odd', null, null, 'lint'),
    step('store', null, null, 'pages'),
    step('notes', null, null, 'odd'),
  ];
  const usual = new Map([
    ['packages', 50],
    ['lint', 5],
    ['pages', 20],
    ['store', 3],
    ['notes', 3],
  ]);
  assert.deepEqual(Object.fromEntries(forecastSteps(steps, usual, 30)), {
    packages: { startsAt: 10, endsAt: 60 },
    // Over its usual time: expected to end any moment.
    lint: { startsAt: 10, endsAt: 30 },
    pages: { startsAt: 60, endsAt: 80 },
    store: { startsAt: 80, endsAt: 83 },
  });
});

test('the usual time tells its spread', () => {
  assert.equal(usualTime([]), null);
  const times = [100, 90, 80, 70, 60, 50, 40, 30, 20, 10];
  assert.deepEqual(usualTime(times), { medianMs: 60, shortMs: 20, longMs: 100, of: 10 });
});

test('lines know the step that said them, however steps took turns', () => {
  const lines = [
    { number: 1, offset: 0, text: 'a' },
    { number: 2, offset: 2, text: 'b' },
    { number: 3, offset: 4, text: 'c' },
  ];
  const segments = [
    { offset: 0, step: 'left', at: 5 },
    { offset: 2, step: 'right', at: 6 },
    { offset: 3, step: 'none', at: 7 },
    { offset: 4, step: 'left', at: 8 },
  ];
  assert.deepEqual(
    saidLines(lines, segments).map(({ number, step, at }) => [number, step, at]),
    [
      [1, 'left', 5],
      [2, 'right', 6],
      [3, 'left', 8],
    ],
  );
  assert.deepEqual(saidLines(lines.slice(0, 1), []), [
    { number: 1, step: '', at: null, text: 'a' },
  ]);
});

test('the critical path runs down the rows between the steps it joins', () => {
  const row = (
    name: string,
    startedAt: number | null,
    endedAt: number | null,
    critical: boolean,
  ) => ({
    name,
    startedAt,
    endedAt,
    critical,
  });
  const rows = [
    row('fetch', 0, 2, true),
    row('lint', 2, 5, false),
    row('pages', 2, 9, true),
    row('links', null, null, false),
  ];
  assert.deepEqual(descents(rows), [
    [{ at: 2, from: 'bar', to: 'bottom' }],
    [{ at: 2, from: 'top', to: 'bottom' }],
    [{ at: 2, from: 'top', to: 'bar' }],
    [],
  ]);
});
