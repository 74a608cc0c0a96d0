import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import test from 'node:test';
import fc from 'fast-check';
import type { Digest } from '../digest.ts';
import { holdingByDefault } from '../evidence/inspection-rules.ts';
import type { Instant } from '../instant.ts';
import { refOfPullRequest } from '../refs/pull-request.ts';
import type { CommitId, RefName } from '../refs/ref-name.ts';
import { mapFaults, mapWarnings, newMapFaults } from './check-map.ts';
import { compareMaps, type Present } from './compare-maps.ts';
import type { DeliveryMap, EnvironmentRule, Family } from './delivery-map.ts';
import { answersTo, destinationOf } from './destinations.ts';
import { drawMap } from './draw-map.ts';
import { familyName } from './family-name.ts';
import {
  branch,
  every,
  mapOf,
  preview,
  production,
  refs,
  staging,
  usual,
} from './maps-for-tests.ts';
import type { Head } from './what-lives.ts';
import { stopsOf } from './what-stops.ts';

const sha256 = (text: string) => createHash('sha256').update(text).digest('hex') as Digest;
const commit = (text: string) => sha256(text) as string as CommitId;

test('every rule that matches counts, and it says why nothing else goes anywhere', () => {
  const ways = [
    [branch('main'), null, ['staging'], 'staging follows main'],
    [branch('try/quay'), null, ['preview'], 'preview has one for each try/quay'],
    [refOfPullRequest(3), 'main', ['preview'], 'preview has one for each pull request into main'],
    [
      refOfPullRequest(3),
      'harbour',
      [],
      'no environment wants pr-3: staging follows main, preview has one for each try/* or pull request into main',
    ],
  ] as const;
  for (const [ref, into, names, why] of ways) {
    const found = destinationOf(usual, ref, into);
    assert.deepEqual([found.rules.map(({ name }) => name), found.why], [names, why]);
  }
  const both = mapOf(production, staging, { ...preview, each: refs(['*']) });
  assert.deepEqual(
    destinationOf(both, branch('main')).rules.map(({ name }) => name),
    ['staging', 'preview'],
  );
  assert.deepEqual(
    answersTo(usual, branch('main'), null).map(({ rule, isMatch }) => [rule, isMatch]),
    [
      ['production', false],
      ['staging', true],
      ['preview', false],
    ],
  );
});

test('a family’s environment is named after its ref, as a label of a host, and never like another', () => {
  const name = (ref: RefName, ...taken: string[]) =>
    familyName(ref, (one) => taken.includes(one), sha256);
  assert.equal(name(refOfPullRequest(12)), 'pr-12');
  assert.equal(name(branch('try/quay-map')), 'try-quay-map');
  assert.equal(name(branch('Try/Quay__Map')), 'try-quay-map');
  assert.match(name(branch('Try/Quay__Map'), 'try-quay-map'), /^try-quay-map-[0-9a-f]{6}$/);
  assert.match(name(branch('pr-12')), /^pr-12-[0-9a-f]{6}$/);
  assert.match(name(branch('build-7')), /^build-7-[0-9a-f]{6}$/);
  assert.match(name(branch('ÄÖ')), /^ref-[0-9a-f]{6}$/);
  assert.equal(name('refs/tags/2.1' as RefName), 'v-2-1');
  fc.assert(
    fc.property(fc.string({ minLength: 1, maxLength: 120 }), fc.boolean(), (text, isTaken) => {
      const made = familyName(branch(text), () => isTaken, sha256);
      assert.match(made, /^[a-z](?:-?[a-z0-9])*$/);
      assert.ok(made.length <= 40);
    }),
  );
});

test('what keeps a map from being set: lanes, circles, families where one environment is meant', () => {
  const lanes = ['production', 'staging', 'preview'];
  assert.deepEqual(mapFaults(usual, lanes), []);
  const faults = (map: DeliveryMap, said = map.environments.map(({ name }) => name)) =>
    mapFaults(map, said).map(({ path, message }) => `${path.join('.')}: ${message}`);
  assert.deepEqual(faults(usual, ['production', 'staging', 'staging', 'quay']), [
    'lanes.2: names staging twice',
    'lanes.3: there is no environment quay',
    'environments.preview: has no lane: add it to lanes',
  ]);
  const from = (name: string, source: string): EnvironmentRule => ({
    ...every,
    name,
    kind: 'accepts',
    from: source,
  });
  assert.match(faults(mapOf(from('a', 'b'), from('b', 'a')))[0] ?? '', /goes in a circle/);
  assert.match(faults(mapOf(from('a', 'a')))[0] ?? '', /circle|itself/);
  assert.match(faults(mapOf(from('a', 'c')))[0] ?? '', /there is no environment c/);
  assert.match(faults(mapOf(from('a', 'preview'), preview))[0] ?? '', /preview is a family/);
  assert.match(faults(mapOf(preview, staging))[0] ?? '', /the top lane is one environment/);
  assert.match(
    faults(mapOf({ ...staging, name: 'pr-3' }))[0] ?? '',
    /a name that pull requests and artifacts have/,
  );
});

test('a map that is set anew has room for 500 environments that live at once', () => {
  const family = (name: string, atMost: number): EnvironmentRule => ({
    ...(preview as Family),
    name,
    atMost,
  });
  const map = (...sizes: number[]) =>
    mapOf(staging, ...sizes.map((atMost, place) => family(`f${place}`, atMost)));
  assert.deepEqual(newMapFaults(map(200, 200, 99)), []);
  const [fault] = newMapFaults(map(100, 200, 200));
  assert.deepEqual(fault?.path, ['environments', 'f1']);
  assert.match(fault?.message ?? '', /^501 environments .* come to 499 together/);
  assert.deepEqual(newMapFaults(mapOf(staging)), []);
});

test('what may be meant otherwise is told', () => {
  const heads = [
    { ref: branch('main'), into: null },
    { ref: branch('try/a'), into: null },
  ];
  const said = (map: DeliveryMap) => mapWarnings(map, heads).map(({ message }) => message);
  assert.deepEqual(said(usual), []);
  assert.deepEqual(said(mapOf({ ...staging, follows: refs(['mian']) })), [
    'no present ref is mian',
  ]);
  assert.match(said(mapOf({ ...staging, follows: refs(['main', 'b']) }))[0] ?? '', /noticed last/);
  assert.match(
    said(mapOf(staging, preview, { ...preview, name: 'other' })).at(-1) ?? '',
    /preview and other each have one for the same refs, such as try\/a/,
  );
  assert.match(
    said(mapOf(staging, preview)).join(),
    /takes what is proposed into main, which staging follows by itself/,
  );
  assert.match(
    said(mapOf({ ...production, gives: ['KEY'] }, staging))[0] ?? '',
    /nothing is given/,
  );
});

const now = 1_000_000 as Instant;
const head = (ref: RefName, into: string | null = null, text = ref as string): Head => ({
  ref,
  into,
  commit: commit(text),
});

test('a map is compared over what is there: what starts, ends, leaves, and goes elsewhere', () => {
  const present: Present = {
    heads: [
      head(branch('main')),
      head(branch('try/a')),
      head(branch('quay')),
      head(refOfPullRequest(1), 'main'),
    ],
    living: [
      {
        name: 'try-a',
        rule: 'preview',
        ref: branch('try/a'),
        head: null,
        touchedAt: now,
        closedAt: null,
        keptUntil: null,
      },
      {
        name: 'pr-1',
        rule: 'preview',
        ref: refOfPullRequest(1),
        head: null,
        touchedAt: now,
        closedAt: null,
        keptUntil: null,
      },
    ],
    ended: [],
    standing: ['production', 'staging'],
    now,
  };
  const nothing = compareMaps(usual, usual, present);
  assert.deepEqual(
    [nothing.rules, nothing.refs, nothing.starts, nothing.ends, nothing.leaves],
    [[], [], [], [], []],
  );
  const [longer] = compareMaps(
    usual,
    mapOf(production, staging, { ...preview, ends: { closedMs: 0, untouchedMs: 14 * 86_400_000 } }),
    present,
  ).rules;
  assert.match(longer?.after ?? '', /ends 0 min after its ref and 14 d after its newest commit/);
  const narrower = mapOf(
    production,
    { ...staging, follows: refs(['quay']) },
    { ...preview, each: refs([], ['main']) },
  );
  const found = compareMaps(usual, narrower, present);
  assert.deepEqual(found.leaves, ['try-a']);
  assert.deepEqual(
    found.refs.map(({ ref, before, after }) => [ref, before, after]),
    [
      [branch('main'), ['staging'], []],
      [branch('try/a'), ['preview'], []],
      [branch('quay'), [], ['staging']],
    ],
  );
  const without = compareMaps(usual, mapOf(production, staging), present);
  assert.deepEqual(without.ends, ['try-a', 'pr-1']);
  const renamed = compareMaps(
    usual,
    mapOf(production, staging, { ...preview, name: 'look', was: 'preview' }),
    present,
  );
  assert.deepEqual([renamed.ends, renamed.starts, renamed.rules[0]?.how], [[], [], 'renamed']);
  // A renaming that is carried out says nothing more, also when the old name is another's by now and goes.
  const carried = mapOf(production, { ...staging, name: 'quay', was: 'staging' }, staging);
  const later = compareMaps(
    carried,
    mapOf(production, { ...staging, name: 'quay', was: 'staging' }),
    { ...present, living: [], standing: ['production', 'quay', 'staging'] },
  );
  assert.deepEqual(later.ends, ['staging']);
  const wider = compareMaps(
    usual,
    mapOf(production, staging, { ...preview, each: refs(['*'], ['main']) }),
    present,
  );
  assert.deepEqual(
    wider.starts.map(({ ref }) => ref),
    // One more fits into the family.
    [branch('main')],
  );
  // One environment instead of a family is another thing of the same name.
  const one = compareMaps(
    usual,
    mapOf(production, staging, { ...staging, name: 'preview' }),
    present,
  );
  assert.deepEqual(one.ends, ['try-a', 'pr-1']);
});

test('a drawing has every ref in its group, the taken first, and each rule where its environment is', () => {
  const heads = ['notes', 'old', 'main', 'x1', 'x2', 'x3', 'x4'].map((name) => ({
    ref: branch(name),
    into: null,
  }));
  const drawn = drawMap(usual, [...heads, { ref: refOfPullRequest(1), into: 'main' }]);
  const [branches, tags, pulls] = drawn.groups;
  assert.deepEqual(
    branches?.refs.map(({ name, goes }) => [name, goes]),
    [
      ['main', true],
      ['notes', false],
      ['old', false],
      ['x1', false],
      ['x2', false],
      ['and 2 more', true],
    ],
  );
  assert.deepEqual([tags?.refs[0]?.name, pulls?.refs[0]?.name], ['none yet', 'pr-1']);
  const [top, below, family] = drawn.rules;
  assert.deepEqual([top?.brackets, top?.acceptsAt], [[], below?.y]);
  const main = branches?.refs[0]?.y ?? 0;
  const [around] = below?.brackets ?? [];
  assert.ok(around !== undefined && around.top < main && main < around.bottom);
  // What stands together is in one bracket.
  const wide = mapOf(production, { ...staging, follows: refs(['main', 'x*']) }, preview);
  const runs = drawMap(wide, heads).rules[1]?.brackets ?? [];
  assert.deepEqual([runs.length, (runs[0]?.bottom ?? 0) - (runs[0]?.top ?? 0) > 50], [1, true]);
  assert.equal(family?.matchCount, 1);
  // Nothing overlaps: rows and lanes go downward.
  const ys = drawn.groups.flatMap(({ y, refs: rows }) => [y, ...rows.map((one) => one.y)]);
  assert.deepEqual(
    ys,
    ys.toSorted((one, other) => one - other),
  );
});

test('what stops a build is what stops it anywhere that wants it, and the usual where none does', () => {
  const map = mapOf({ ...staging, stops: ['grew'] }, { ...preview, stops: ['broken-link'] });
  assert.deepEqual([...stopsOf(map, ['preview', 'staging'])].sort(), ['broken-link', 'grew']);
  assert.deepEqual([...stopsOf(map, ['staging'])], ['grew']);
  assert.deepEqual([...stopsOf(mapOf({ ...staging, stops: [] }), ['staging'])], []);
  assert.deepEqual([...stopsOf(map, [])], [...holdingByDefault]);
  const said = compareMaps(usual, mapOf(production, { ...staging, stops: [] }, preview), {
    heads: [],
    living: [],
    ended: [],
    standing: [],
    now: 0 as Instant,
  });
  assert.match(said.rules[0]?.after ?? '', /; stopped by no finding, lane 2$/);
});
