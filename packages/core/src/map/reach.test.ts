import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { refOfPullRequest } from '../refs/pull-request.ts';
import { compareRights } from './compare-rights.ts';
import type { DeliveryMap, Following } from './delivery-map.ts';
import { branch, mapOf, preview, production, refs, staging, usual } from './maps-for-tests.ts';
import { type RefReaching, reachOf, wayOf } from './reach.ts';

const project = 'j1';
const people = [
  {
    name: 'ines',
    shownAs: 'Ines',
    groups: [],
    grants: [{ project: null, role: 'operator' as const }],
  },
  { name: 'jonas', shownAs: 'Jonas', groups: [], grants: [{ project, role: 'releaser' as const }] },
  { name: 'noor', shownAs: 'Noor', groups: [], grants: [{ project, role: 'builder' as const }] },
  {
    name: 'wren',
    shownAs: 'Wren',
    groups: ['release-desk'],
    grants: [{ project, role: 'reader' as const }],
  },
];
const pull = (number: number, into: string, isOutsiders = false): RefReaching => ({
  ref: refOfPullRequest(number),
  into,
  isOutsiders,
});
const plain = (name: string): RefReaching => ({
  ref: branch(name),
  into: null,
  isOutsiders: false,
});
const present = [
  plain('main'),
  plain('try/a'),
  plain('try/b'),
  plain('old'),
  pull(1, 'main'),
  pull(2, 'main', true),
];

const reached = (map: DeliveryMap, home: string | null = project) =>
  reachOf(map, { project, members: people, refs: present, home });

test('each person has what their role and the map give them, in lane order', () => {
  const map = mapOf(
    {
      ...production,
      may: { 'roll-back': ['noor', 'gone', 'release-desk'], promote: 'maintainer' },
    },
    { ...staging, enters: 'on-word' },
    preview,
  );
  const { people: found, warnings } = reached(map);
  assert.deepEqual(
    found.map(({ name, role, deeds }) => [name, role, ...deeds.map((own) => own.join(', '))]),
    [
      [
        'ines',
        'operator',
        'promotes, holds',
        'pushes, lets in, rolls back, holds, sets values',
        'pushes, rolls back, holds, ends, sets values',
      ],
      [
        'jonas',
        'releaser',
        'holds',
        'pushes, lets in, rolls back, holds',
        'pushes, rolls back, holds, ends',
      ],
      ['noor', 'builder', 'rolls back', 'pushes, lets in, rolls back', 'pushes, rolls back, ends'],
      ['wren', 'reader', 'rolls back', '', ''],
    ],
  );
  assert.deepEqual(warnings, [
    { rule: 'production', message: 'names gone, who may not read this project' },
  ]);
  // Where the repository is elsewhere, nobody's role here says who pushes.
  assert.ok(reached(map, null).people.every(({ deeds }) => !deeds.flat().includes('pushes')));
});

test('refs that come everywhere in the same ways stand together', () => {
  assert.deepEqual(
    reached(usual).refs.map(({ kind, names, ways }) => [kind, names.join(' '), ways.join(' ')]),
    [
      ['branch', 'main', 'promoted by-itself not-here'],
      ['branch', 'try/a try/b', 'not-here not-here by-itself'],
      ['branch', 'old', 'not-here not-here not-here'],
      ['pull-request', 'pr-1', 'not-here by-merge by-itself'],
      ['outsiders', 'pr-2', 'not-here by-merge not-here'],
    ],
  );
});

test('rules that allow more, or less, than they seem to say are told', () => {
  const open: Following = { ...staging, name: 'site', follows: refs(['old']) };
  const cases: readonly (readonly [DeliveryMap, readonly string[]])[] = [
    [usual, []],
    [
      mapOf(open, preview),
      [
        'takes old by itself: 3 people who may push can change the top',
        'has one for pr-1, and a merge into main goes nowhere',
      ],
    ],
    [
      mapOf({ ...production, may: { promote: 'nobody', 'roll-back': [] } }, staging),
      ['can be rolled back by nobody', 'can be promoted to by nobody'],
    ],
  ];
  for (const [map, messages] of cases)
    assert.deepEqual(
      reached(map).warnings.map(({ message }) => message),
      messages,
    );
});

test('what an outsider proposes comes nowhere by itself, and what nothing takes comes nowhere', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('main', 'try/a', 'old', 'release'),
      fc.option(fc.constantFrom('main', 'release')),
      fc.boolean(),
      fc.constantFrom('by-itself' as const, 'on-word' as const),
      fc.option(fc.constantFrom('staging')),
      (name, into, isOutsiders, enters, from) => {
        const top: Following = {
          ...staging,
          name: 'production',
          follows: refs(['release']),
          enters,
          from,
        };
        const map = mapOf(top, { ...staging, enters }, { ...preview, enters });
        const one = { ref: branch(name), into, isOutsiders };
        for (const rule of map.environments) {
          const way = wayOf(map, rule, one);
          if (isOutsiders) assert.ok(['by-merge', 'not-here'].includes(way));
          if (way === 'by-itself') assert.equal(enters, 'by-itself');
        }
      },
    ),
  );
});

test('whose rights a map widens and narrows is told, over the rules that both maps have', () => {
  const wider = mapOf(
    { ...production, may: { promote: ['noor'] } },
    { ...staging, name: 'rehearsal', was: 'staging', may: { values: 'builder' } },
  );
  const told = compareRights(usual, wider, { project, members: people, home: project });
  assert.deepEqual(
    told.map(({ name, rule, gains, loses }) => [name, rule, ...gains, '-', ...loses]),
    [
      ['ines', 'production', '-', 'promotes'],
      ['jonas', 'production', '-', 'promotes'],
      ['noor', 'production', 'promotes', '-'],
      ['jonas', 'rehearsal', 'sets values', '-'],
      ['noor', 'rehearsal', 'sets values', '-'],
    ],
  );
  assert.deepEqual(compareRights(usual, usual, { project, members: people, home: project }), []);
});
