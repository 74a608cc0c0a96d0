import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import test from 'node:test';
import fc from 'fast-check';
import type { Digest } from '../digest.ts';
import { type Instant, later } from '../instant.ts';
import { refOfPullRequest } from '../refs/pull-request.ts';
import type { CommitId, RefName } from '../refs/ref-name.ts';
import type { Family } from './delivery-map.ts';
import { destinationOf } from './destinations.ts';
import { decideKeep, endOf } from './family-end.ts';
import { familyName } from './family-name.ts';
import { branch, mapOf, preview, production, refs, staging, usual } from './maps-for-tests.ts';
import { type Ended, type Head, type Living, makesRoom, whatLives } from './what-lives.ts';

const sha256 = (text: string) => createHash('sha256').update(text).digest('hex') as Digest;
const commit = (text: string) => sha256(text) as string as CommitId;

/** What happens to a repository and its map. */
type Event =
  | { readonly does: 'push'; readonly ref: number; readonly commit: number }
  | { readonly does: 'delete'; readonly ref: number }
  | { readonly does: 'wait'; readonly ms: number }
  | { readonly does: 'map'; readonly which: number }
  | { readonly does: 'keep'; readonly which: number; readonly ms: number }
  | { readonly does: 'end'; readonly which: number };

const places: readonly { ref: RefName; into: string | null }[] = [
  { ref: branch('main'), into: null },
  { ref: branch('try/a'), into: null },
  { ref: branch('try/b'), into: null },
  { ref: branch('try/c'), into: null },
  { ref: refOfPullRequest(1), into: 'main' },
  { ref: refOfPullRequest(2), into: 'main' },
];
const maps = [
  usual,
  mapOf(production, staging, { ...preview, atMost: 1 }),
  mapOf(production, staging, { ...preview, each: refs([], ['main']) }),
  mapOf(production, staging, { ...preview, ends: { closedMs: 0, untouchedMs: 4000 } }),
];

/** The installation as far as families go: what the service keeps in rows, moved by the same functions. */
class Model {
  map = usual;
  now = 1 as Instant;
  heads = new Map<RefName, Head>();
  living: Living[] = [];
  ended: Ended[] = [];

  take(event: Event): void {
    if (event.does === 'wait') this.now = (this.now + event.ms) as Instant;
    if (event.does === 'map') this.map = maps[event.which % maps.length] ?? usual;
    const place = 'ref' in event ? places[event.ref % places.length] : undefined;
    if (event.does === 'delete' && place !== undefined) this.heads.delete(place.ref);
    if (event.does === 'push' && place !== undefined) {
      const at = commit(String(event.commit));
      const isNew = this.heads.get(place.ref)?.commit !== at;
      this.heads.set(place.ref, { ...place, commit: at });
      const rule = destinationOf(this.map, place.ref, place.into).rules.find(
        (one): one is Family => one.kind === 'each',
      );
      if (rule !== undefined && isNew) this.touch(rule, place.ref, at);
    }
    if (event.does === 'keep') this.hold(event.which, later(this.now, event.ms));
    const asked =
      event.does === 'end' ? this.living[event.which % (this.living.length || 1)] : null;
    if (asked != null) this.end(asked.name, 'asked');
    this.keep();
  }

  hold(which: number, until: Instant): void {
    const one = this.living[which % (this.living.length || 1)];
    const rule = this.map.environments.find((each) => each.kind === 'each');
    if (one === undefined || rule?.kind !== 'each') return;
    const kept = this.living.filter((each) => each !== one && (each.keptUntil ?? 0) > this.now);
    if (!decideKeep(rule, { until, now: this.now, otherKept: kept.length }).ok) return;
    this.living = this.living.map((each) => (each === one ? { ...each, keptUntil: until } : each));
  }

  touch(rule: Family, ref: RefName, at: CommitId): void {
    const own = this.living.find((one) => one.ref === ref && one.rule === rule.name);
    if (own === undefined) {
      for (const { name } of makesRoom(rule, this.living, this.now)) this.end(name, 'crowded');
      this.ended = this.ended.filter((one) => one.ref !== ref);
    } else this.living = this.living.filter((one) => one !== own);
    const taken = new Set(this.living.map(({ name }) => name));
    const name = own?.name ?? familyName(ref, (one) => taken.has(one), sha256);
    const row = {
      name,
      rule: rule.name,
      ref,
      touchedAt: this.now,
      closedAt: null,
      keptUntil: own?.keptUntil ?? null,
      head: at,
    };
    this.living = [...this.living, row];
  }

  end(name: string, because: Ended['because']): void {
    const row = this.living.find((one) => one.name === name);
    if (row === undefined) return;
    this.living = this.living.filter((one) => one !== row);
    this.ended = [{ rule: row.rule, ref: row.ref, because, commit: row.head }, ...this.ended];
  }

  due() {
    const heads = [...this.heads.values()];
    return whatLives(this.map, { heads, living: this.living, ended: this.ended, now: this.now });
  }

  keep(): void {
    const due = this.due();
    for (const { name, at } of due.closes)
      this.living = this.living.map((one) => (one.name === name ? { ...one, closedAt: at } : one));
    for (const { name, because } of due.ends) this.end(name, because);
    for (const { rule, head: one } of [...due.starts, ...due.feeds])
      this.touch(rule, one.ref, one.commit);
  }
}

test('whatever happens in whatever order: what lives is what the map says, and keeping it twice is keeping it once', () => {
  const event = fc.oneof(
    fc.record({ does: fc.constant('push' as const), ref: fc.nat(5), commit: fc.nat(3) }),
    fc.record({ does: fc.constant('push' as const), ref: fc.nat(5), commit: fc.nat(3) }),
    fc.record({ does: fc.constant('delete' as const), ref: fc.nat(5) }),
    fc.record({
      does: fc.constant('wait' as const),
      ms: fc.constantFrom(1, 500, 1000, 5000, 20_000),
    }),
    fc.record({ does: fc.constant('map' as const), which: fc.nat(3) }),
    fc.record({
      does: fc.constant('keep' as const),
      which: fc.nat(3),
      ms: fc.constantFrom(600, 6000, 30_000),
    }),
    fc.record({ does: fc.constant('end' as const), which: fc.nat(3) }),
  );
  fc.assert(
    fc.property(fc.array(event, { maxLength: 40 }), (events) => {
      const model = new Model();
      for (const one of events) {
        model.take(one);
        const again = model.due();
        assert.deepEqual(
          [again.ends, again.closes, again.feeds],
          [[], [], []],
          'kept twice is kept once',
        );
        const rule = model.map.environments.find((each) => each.kind === 'each') ?? preview;
        const names = model.living.map(({ name }) => name);
        assert.equal(new Set(names).size, names.length, 'no name twice');
        for (const lives of model.living) {
          const there = model.heads.get(lives.ref);
          const isWanted =
            there !== undefined &&
            destinationOf(model.map, there.ref, there.into).rules.includes(rule as Family);
          assert.equal(lives.closedAt === null, isWanted, 'open while its ref is wanted');
          assert.ok(rule.kind === 'each' && endOf(rule.ends, lives).at > model.now, 'its time');
        }
        // What is wanted and does not live has ended with that very commit, or the family is full.
        for (const there of model.heads.values()) {
          const wanted = destinationOf(model.map, there.ref, there.into).rules.includes(
            rule as Family,
          );
          const lives = model.living.some((each) => each.ref === there.ref);
          if (!wanted) continue;
          const own = model.living.find((each) => each.ref === there.ref);
          assert.ok(own === undefined || own.head === there.commit, 'no commit is missed');
          if (lives) continue;
          const before = model.ended.find((each) => each.ref === there.ref);
          const isFull = rule.kind === 'each' && model.living.length >= rule.atMost;
          assert.ok(isFull || (before?.commit === there.commit && before.because !== 'closed'));
        }
      }
    }),
    { numRuns: 3000 },
  );
});

test('what ended for want of a rule is back with the rule; what somebody ended waits for a new commit', () => {
  const head: Head = { ref: branch('try/a'), into: null, commit: commit('one') };
  const starts = (because: Ended['because'], at = 'one') =>
    whatLives(usual, {
      heads: [head],
      living: [],
      ended: [{ rule: 'preview', ref: head.ref, because, commit: commit(at) }],
      now: 1 as Instant,
    }).starts.length;
  assert.deepEqual(
    (['closed', 'unruled', 'untouched', 'crowded', 'asked'] as const).map((one) => starts(one)),
    [1, 1, 0, 0, 0],
  );
  assert.equal(starts('asked', 'another'), 1);
});

test('what lives and missed a commit while nothing wanted its ref is given it once it is wanted again', () => {
  const lives: Living = {
    name: 'try-a',
    rule: 'preview',
    ref: branch('try/a'),
    head: commit('one'),
    touchedAt: 1 as Instant,
    closedAt: 2 as Instant,
    keptUntil: null,
  };
  const due = (head: CommitId | null, at: string) =>
    whatLives(usual, {
      heads: [{ ref: lives.ref, into: null, commit: commit(at) }],
      living: [{ ...lives, head }],
      ended: [],
      now: 3 as Instant,
    });
  assert.deepEqual(due(lives.head, 'two').closes, [{ name: 'try-a', at: null }]);
  assert.deepEqual(
    due(lives.head, 'two').feeds.map(({ head }) => head.commit),
    [commit('two')],
  );
  assert.deepEqual([due(lives.head, 'one').feeds, due(null, 'two').feeds], [[], []]);
});
