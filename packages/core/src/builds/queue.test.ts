import assert from 'node:assert/strict';
import test from 'node:test';
import { descents } from './chart-rows.ts';
import { criticalPath, usualTime } from './critical-path.ts';
import { saidLines } from './log-lines.ts';
import { nextInQueue } from './next-in-queue.ts';

test('a project that queues a hundred builds does not hold up the others', () => {
  const many = Array.from({ length: 100 }, (_, place) => ({
    id: `a${place}`,
    project: 'a',
    priority: 0,
  }));
  const other = { id: 'b', project: 'b', priority: 0 };
  assert.equal(nextInQueue([...many, other], new Map(), 4)?.id, 'a0');
  assert.equal(nextInQueue([...many, other], new Map([['a', 1]]), 4)?.id, 'b');
  assert.equal(nextInQueue(many, new Map([['a', 4]]), 4), null);
  const urgent = { id: 'u', project: 'a', priority: 1 };
  assert.equal(nextInQueue([...many, urgent], new Map(), 4)?.id, 'u');
});

test('the critical path goes back from the end by what each step waited for longest', () => {
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

test('the usual time tells its spread', () => {
  assert.equal(usualTime([]), null);
  const times = [100, 90, 80, 70, 60, 50, 40, 30, 20, 10];
  assert.deepEqual(usualTime(times), { medianMs: 60, shortMs: 20, longMs: 100, of: 10 });
});

test('lines know the step that said them, however steps took turns', () => {
  const lines = [
    { offset: 0, text: 'a' },
    { offset: 2, text: 'b' },
    { offset: 4, text: 'c' },
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
