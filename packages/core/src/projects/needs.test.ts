import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import type { Instant } from '../instant.ts';
import { needKinds, needsOf, type PlaceNow, type ProjectNow } from './needs.ts';

const at = (minute: number): Instant => (minute * 60_000) as Instant;
const quiet: PlaceNow = { name: 'production', place: 0, hold: null, offer: null, failed: null };
const project = (name: string, more: Partial<ProjectNow> = {}, place: Partial<PlaceNow> = {}) => ({
  name,
  environments: [{ ...quiet, ...place }],
  ending: [],
  trouble: null,
  word: null,
  ...more,
});
const hold = (minute: number) => ({ by: 'Jonas', since: at(minute), reason: 'Search is out.' });
const offer = (minute: number) => ({ build: 2, subject: 'Boards', since: at(minute) });

test('what keeps visitors from a change comes first, then words, then what stands still, then what failed, last what of one’s own ends', () => {
  const found = needsOf(
    [
      project('freight', { trouble: { says: 'refused', since: at(1) } }),
      project('ticket-desk', {}, { failed: 341 }),
      project('quiet'),
      project('signage', {}, { offer: offer(3) }),
      project('timetable', { word: { name: 'pr-4', title: 'Dogs', since: at(2) } }),
      project('tides', {}, { hold: hold(9), failed: 7 }),
      project('crew-rota', {}, { hold: hold(4) }),
      project('berths', { ending: [{ name: 'pr-2', owner: 'wren', endsAt: at(30) }] }),
      project('tariffs', { ending: [{ name: 'pr-1', owner: 'jonas', endsAt: at(30) }] }),
    ],
    'wren',
  );
  assert.deepEqual(
    found.map(({ project: name, kind }) => [name, kind]),
    [
      ['crew-rota', 'held'],
      ['tides', 'held'],
      ['signage', 'offered'],
      ['timetable', 'word'],
      ['freight', 'trouble'],
      ['ticket-desk', 'failed'],
      ['berths', 'ending'],
    ],
  );
});

test('each project stands once, kinds in order, the longest first', () => {
  const maybe = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: null });
  const minutes = fc.nat(50);
  const one = fc.record({
    hold: maybe(minutes.map(hold)),
    offer: maybe(minutes.map(offer)),
    failed: maybe(fc.nat(9)),
    word: maybe(minutes.map((since) => ({ name: 'pr-1', title: 'One', since: at(since) }))),
  });
  fc.assert(
    fc.property(fc.array(one, { maxLength: 12 }), (all) => {
      const projects = all.map(({ word, ...place }, number) =>
        project(`p${number}`, { word }, place),
      );
      const found = needsOf(projects, null);
      assert.equal(new Set(found.map((need) => need.project)).size, found.length);
      const needing = all.filter((own) => Object.values(own).some((value) => value !== null));
      assert.equal(found.length, needing.length);
      for (const [place, need] of found.entries()) {
        const next = found[place + 1];
        if (next === undefined) continue;
        const [kind, after] = [needKinds.indexOf(need.kind), needKinds.indexOf(next.kind)];
        assert.ok(
          kind < after || (kind === after && (need.since ?? 0) <= (next.since ?? Infinity)),
        );
      }
    }),
  );
});
