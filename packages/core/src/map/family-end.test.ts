import assert from 'node:assert/strict';
import test from 'node:test';
import type { Instant } from '../instant.ts';
import { decideKeep, endOf, isEndingSoon } from './family-end.ts';
import { preview } from './maps-for-tests.ts';

const hour = 3_600_000;
const ends = { closedMs: hour, untouchedMs: 24 * hour };
const at = (hours: number) => (hours * hour) as Instant;
const one = { touchedAt: at(0), closedAt: null, keptUntil: null };

test('an environment of a family ends by whichever comes first, and never before what somebody keeps it until', () => {
  assert.deepEqual(endOf(ends, one), { at: at(24), because: 'untouched' });
  assert.deepEqual(endOf(ends, { ...one, closedAt: at(2) }), { at: at(3), because: 'closed' });
  assert.deepEqual(endOf(ends, { ...one, closedAt: at(23.5) }), {
    at: at(24),
    because: 'untouched',
  });
  assert.deepEqual(endOf(ends, { ...one, closedAt: at(2), keptUntil: at(9) }), {
    at: at(9),
    because: 'closed',
  });
  assert.deepEqual(endOf(ends, { ...one, keptUntil: at(9) }).at, at(24));
});

test('its owner is told two hours before, unless its ref has gone', () => {
  const soon = (hours: number, of = one) => isEndingSoon(ends, of, at(hours));
  assert.deepEqual([soon(21.9), soon(22), soon(23.9), soon(24)], [false, true, true, false]);
  assert.equal(soon(2.5, { ...one, closedAt: at(2) as never }), false);
});

test('it is kept for a year at most, and one of a family stays free', () => {
  const keep = (until: number, otherKept: number) => {
    const decided = decideKeep(preview, { until: at(until), now: at(1), otherKept });
    return decided.ok ? 'kept' : decided.refusal.code;
  };
  assert.deepEqual(
    [keep(2, 0), keep(2, 1), keep(2, 2), keep(1, 0), keep(367 * 24, 0)],
    ['kept', 'kept', 'too-many-kept', 'kept-too-long', 'kept-too-long'],
  );
});
