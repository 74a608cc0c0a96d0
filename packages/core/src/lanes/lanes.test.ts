import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';
import { bandsOf, type ChartWindow, type LaneDeploy, railOf, threadsBetween } from './bands.ts';
import { placeWords } from './place-words.ts';
import { axisTicks } from './ticks.ts';

const hour = 3_600_000;
const window: ChartWindow = {
  from: 0 as Instant,
  to: (192 * hour) as Instant,
  now: (168 * hour) as Instant,
};
const scale = (at: Instant): number => (at / (192 * hour)) * 744;
const layout = { largest: 22 as const, ticks: [], labelWidth: () => 100 };

function deploy(
  number: number,
  hours: number,
  letter: string,
  more: Partial<LaneDeploy> = {},
): LaneDeploy {
  return {
    number,
    kind: 'promoted',
    artifact: letter.repeat(64) as Digest,
    build: number,
    committedAt: (hours * hour) as Instant,
    undoes: null,
    ...more,
  };
}

test('bands follow each other without overlap and end at now', () => {
  const hours = fc
    .uniqueArray(fc.integer({ min: 1, max: 167 }), { minLength: 1, maxLength: 20 })
    .map((list) => list.sort((a, b) => a - b));
  fc.assert(
    fc.property(hours, (list) => {
      const bands = bandsOf(
        list.map((at, place) => deploy(place + 1, at, 'a')),
        window,
        scale,
        layout,
      );
      assert.equal(bands.length, list.length);
      for (const [place, band] of bands.entries()) {
        const next = bands[place + 1];
        if (next !== undefined) assert.ok(band.left + band.width <= next.left + 0.001);
        else assert.ok(Math.abs(band.left + band.width - scale(window.now)) < 0.001);
        assert.ok(band.mark === 0 || band.mark + 2 <= band.width);
        assert.equal(band.open, next === undefined);
      }
    }),
  );
});

test('a band from before the window is cut at its edge, one that ended before it is left out', () => {
  const later = { ...window, from: (24 * hour) as Instant };
  const shifted = (at: Instant): number => scale((at - 24 * hour) as Instant);
  const bands = bandsOf(
    [deploy(1, 2, 'a'), deploy(2, 10, 'b'), deploy(3, 60, 'c')],
    later,
    shifted,
    layout,
  );
  assert.deepEqual(
    bands.map((band) => [band.deploy.number, band.cut, Math.round(band.left)]),
    [
      [2, true, 0],
      [3, false, Math.round(shifted((60 * hour) as Instant))],
    ],
  );
});

test('what a rollback undid is marked so, and words fit the room there is', () => {
  const bands = bandsOf(
    [
      deploy(1, 1, 'a'),
      deploy(2, 80, 'b'),
      deploy(3, 83, 'a', { kind: 'rolled-back', undoes: { first: 2, last: 2 } }),
    ],
    window,
    scale,
    layout,
  );
  assert.deepEqual(
    bands.map((band) => band.undone),
    [false, true, false],
  );
  assert.deepEqual(
    bands.map((band) => band.words),
    ['beside', 'none', 'beside'],
  );
  const narrow = bandsOf(
    [deploy(1, 1, 'a'), deploy(2, 25, 'b'), deploy(3, 33, 'c')],
    window,
    scale,
    layout,
  );
  assert.deepEqual(
    narrow.map((band) => band.words),
    ['stacked', 'mark', 'beside'],
  );
});

test('a mark is said again at grid lines clear of the words', () => {
  const ticks = [48, 96, 144].map((at) => (at * hour) as Instant);
  const [band] = bandsOf([deploy(1, 1, 'a')], window, scale, {
    ...layout,
    ticks,
    labelWidth: () => 200,
  });
  assert.deepEqual(
    band?.again.map(Math.round),
    [scale((96 * hour) as Instant), scale((144 * hour) as Instant)].map((x) =>
      Math.round(x - (band?.left ?? 0)),
    ),
  );
});

test('threads join the same bytes only, and those of one column are counted', () => {
  const staging = [deploy(1, 10, 'a'), deploy(2, 20, 'b'), deploy(3, 30, 'c')];
  const production = [
    deploy(1, 12, 'a'),
    deploy(2, 21, 'x'),
    deploy(3, 40, 'c'),
    deploy(4, 40.2, 'c'),
    deploy(5, 50, 'c', { kind: 'rolled-back' }),
  ];
  const threads = threadsBetween(staging, production, window, scale);
  assert.deepEqual(
    threads.map((thread) => [thread.artifact.charAt(0), thread.times]),
    [
      ['a', 1],
      ['c', 2],
    ],
  );
});

test('a hold is a stretch of the rail, open while it stands', () => {
  const at = (hours: number): Instant => (hours * hour) as Instant;
  const rail = railOf(
    [
      { since: at(10), liftedAt: at(20) },
      { since: at(100), liftedAt: null },
    ],
    window,
    scale,
  );
  assert.deepEqual(
    rail.map((one) => [Math.round(one.left), Math.round(one.right), one.open]),
    [
      [39, 78, false],
      [388, 744, true],
    ],
  );
});

test('event words never overlap, and the more important ones stay', () => {
  const wanted = fc.array(
    fc.record({
      x: fc.integer({ min: 0, max: 700 }),
      width: fc.integer({ min: 10, max: 120 }),
      rank: fc.integer({ min: 0, max: 2 }),
    }),
    { maxLength: 25 },
  );
  fc.assert(
    fc.property(wanted, (list) => {
      const words = list.map((one, key) => ({ key, ...one }));
      const placed = placeWords(words, 744, 6);
      for (const [place, one] of placed.entries()) {
        const width = words[one.key]?.width ?? 0;
        assert.ok(one.x >= 0 && one.x + width <= 744);
        const next = placed[place + 1];
        if (next !== undefined) assert.ok(one.x + width + 6 <= next.x);
      }
      const best = words.filter((one) => one.rank === 0).sort((a, b) => b.x - a.x)[0];
      if (best !== undefined) assert.ok(placed.some((one) => one.key === best.key));
    }),
  );
});

test('the lines of a window are so far apart as it is long: minutes, hours, days, Mondays', () => {
  const to = Date.UTC(2026, 10, 26, 14, 32) as Instant;
  const at = (hours: number) =>
    axisTicks({ from: (to - hours * hour) as Instant, to, now: to }).map((tick) => [
      new Date(tick.at).toISOString().slice(5, 16),
      tick.isDay,
      tick.weekend,
    ]);
  assert.deepEqual(at(0.5), [
    ['11-26T14:10', false, false],
    ['11-26T14:20', false, false],
    ['11-26T14:30', false, false],
  ]);
  assert.deepEqual(
    at(2.6).map(([when]) => when),
    ['11-26T12:00', '11-26T13:00', '11-26T14:00'],
  );
  assert.deepEqual(at(24).slice(2, 4), [
    ['11-25T21:00', false, false],
    ['11-26T00:00', true, false],
  ]);
  // Mondays, none of which shades the week that it begins.
  assert.deepEqual(at(24 * 30), [
    ['11-02T00:00', true, false],
    ['11-09T00:00', true, false],
    ['11-16T00:00', true, false],
    ['11-23T00:00', true, false],
  ]);
});

test('days begin at midnight UTC and weekends are known', () => {
  // 2026-11-21 is a Saturday.
  const from = Date.UTC(2026, 10, 20, 9) as Instant;
  const ticks = axisTicks({ from, to: (from + 4 * 24 * hour) as Instant, now: from });
  assert.deepEqual(
    ticks.map((tick) => [new Date(tick.at).toISOString().slice(0, 10), tick.weekend]),
    [
      ['2026-11-21', true],
      ['2026-11-22', true],
      ['2026-11-23', false],
      ['2026-11-24', false],
    ],
  );
});
