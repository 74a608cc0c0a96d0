import { type Grant, hasRole, may, type Role, roles } from '../people/may.ts';
import { nameOfRef, pullRequestOf } from '../refs/pull-request.ts';
import { type RefName, refOfBranch, tagOf } from '../refs/ref-name.ts';
import type { RefSeen } from './check-map.ts';
import {
  type DeliveryMap,
  type EnvironmentRule,
  entranceOf,
  refsInWords,
  ruleNamed,
  sourceOf,
} from './delivery-map.ts';
import { wants } from './destinations.ts';
import { isAmong, type MapAct, whoMay } from './map-rights.ts';

/** Somebody who may read a project, with their grants. */
export interface Member {
  readonly name: string;
  readonly groups: readonly string[];
  readonly shownAs: string;
  readonly grants: readonly Grant[];
}

/** A ref that is there; what outsiders propose reaches nothing by itself. */
export interface RefReaching extends RefSeen {
  readonly isOutsiders: boolean;
}

/** What somebody may do to the environments of a rule. */
export const deeds = [
  'pushes',
  'promotes',
  'lets in',
  'rolls back',
  'holds',
  'ends',
  'sets values',
] as const;
export type Deed = (typeof deeds)[number];

/** How the commits of a ref come to the environments of a rule. */
export const ways = [
  'by-itself',
  'once-served',
  'on-word',
  'promoted',
  'by-merge',
  'not-here',
] as const;
export type Way = (typeof ways)[number];

/** Who and what can reach which environment. */
export interface Reach {
  readonly people: readonly {
    readonly name: string;
    readonly shownAs: string;
    readonly role: Role;
    /** In lane order. */
    readonly deeds: readonly (readonly Deed[])[];
  }[];
  /** Refs that come to everywhere in the same ways, together. */
  readonly refs: readonly {
    readonly kind: 'branch' | 'tag' | 'pull-request' | 'outsiders';
    readonly names: readonly string[];
    /** In lane order. */
    readonly ways: readonly Way[];
  }[];
  /** Where rules allow more, or less, than they seem to say. */
  readonly warnings: readonly { readonly rule: string; readonly message: string }[];
}

/**
 * Says who and what can reach which environment of a project. `home` is the project whose roles say who pushes to the
 * repository; null where that is not hosted here.
 */
export function reachOf(
  map: DeliveryMap,
  {
    project,
    members,
    refs,
    home,
  }: {
    readonly project: string;
    readonly members: readonly Member[];
    readonly refs: readonly RefReaching[];
    readonly home: string | null;
  },
): Reach {
  const people = members.map((member) => ({
    name: member.name,
    shownAs: member.shownAs,
    role: roles.findLast((role) => hasRole(member.grants, role, project)) ?? 'reader',
    deeds: map.environments.map((rule, place) => deedsOf(rule, place, member, project, home)),
  }));
  const groups = groupsOf(map, refs);
  return { people, refs: groups, warnings: reachWarnings(map, people, members, refs) };
}

/** What a member may do to the environments of a rule at a place among the lanes. */
export function deedsOf(
  rule: EnvironmentRule,
  place: number,
  member: Member,
  project: string,
  home: string | null,
): readonly Deed[] {
  const mayDo = (act: MapAct): boolean => isAmong(whoMay(rule.may, place, act), member, project);
  const pushes = rule.kind !== 'accepts' && home !== null && may(member.grants, 'build', home);
  return [
    ...(pushes ? (['pushes'] as const) : []),
    ...(sourceOf(rule) !== null && mayDo('promote') ? (['promotes'] as const) : []),
    ...(rule.kind !== 'accepts' && entranceOf(rule) === 'on-word' && mayDo('promote')
      ? (['lets in'] as const)
      : []),
    ...(mayDo('roll-back') ? (['rolls back'] as const) : []),
    ...(mayDo('hold') ? (['holds'] as const) : []),
    ...(rule.kind === 'each' && mayDo('end') ? (['ends'] as const) : []),
    ...(rule.kind !== 'accepts' && mayDo('values') ? (['sets values'] as const) : []),
  ];
}

/** How a ref comes to the environments of a rule: by itself, from another environment, or by being merged. */
export function wayOf(map: DeliveryMap, rule: EnvironmentRule, one: RefReaching): Way {
  const { ref, into, isOutsiders } = one;
  if (!isOutsiders && wants(rule, ref, into)) {
    if (rule.kind === 'follows' && rule.from !== null) return 'once-served';
    return entranceOf(rule);
  }
  const target = into === null ? undefined : refOfBranch(into);
  if (target !== undefined && wants(rule, target, null)) return 'by-merge';
  const source = ruleNamed(map, sourceOf(rule) ?? '');
  if (source === undefined) return 'not-here';
  const there = wayOf(map, source, one);
  return there === 'not-here' || there === 'by-merge' ? 'not-here' : 'promoted';
}

function groupsOf(map: DeliveryMap, refs: readonly RefReaching[]): Reach['refs'] {
  const groups = new Map<
    string,
    { kind: Reach['refs'][number]['kind']; names: string[]; ways: Way[] }
  >();
  for (const one of refs) {
    const kind = one.isOutsiders ? 'outsiders' : kindOf(one);
    const own = map.environments.map((rule) => wayOf(map, rule, one));
    const key = `${kind} ${own.join()}`;
    const group = groups.get(key) ?? { kind, names: [], ways: own };
    group.names.push(nameOfRef(one.ref));
    groups.set(key, group);
  }
  // What goes somewhere stands first among its kind.
  const inOrder = ['branch', 'tag', 'pull-request', 'outsiders'];
  const isNowhere = (ways: readonly Way[]): number =>
    Number(ways.every((way) => way === 'not-here'));
  return [...groups.values()].sort(
    (one, other) =>
      inOrder.indexOf(one.kind) - inOrder.indexOf(other.kind) ||
      isNowhere(one.ways) - isNowhere(other.ways),
  );
}

function kindOf({ ref, into }: RefSeen): 'branch' | 'tag' | 'pull-request' {
  if (into !== null || pullRequestOf(ref) !== undefined) return 'pull-request';
  return tagOf(ref) === undefined ? 'branch' : 'tag';
}

function reachWarnings(
  map: DeliveryMap,
  people: Reach['people'],
  members: readonly Member[],
  refs: readonly RefReaching[],
): Reach['warnings'] {
  const known = new Set(members.flatMap(({ name, groups }) => [name, ...groups]));
  return map.environments.flatMap((rule, place) => {
    const { name, may: allowed } = rule;
    const strangers = Object.values(allowed)
      .flatMap((who) => (typeof who === 'string' ? [] : who))
      .filter((who) => !known.has(who));
    const can = (deed: Deed): number =>
      people.filter(({ deeds: own }) => own[place]?.includes(deed)).length;
    const pushers = can('pushes');
    const messages = [
      ...[...new Set(strangers)].map((who) => `names ${who}, who may not read this project`),
      ...(place === 0 &&
      rule.kind === 'follows' &&
      rule.enters === 'by-itself' &&
      rule.from === null
        ? [
            `takes ${refsInWords(rule.follows)} by itself: ${pushers > 0 ? `${pushers} ${pushers === 1 ? 'person' : 'people'} who may push` : 'whoever pushes there'} can change the top`,
          ]
        : []),
      ...(can('rolls back') === 0 ? ['can be rolled back by nobody'] : []),
      ...(sourceOf(rule) !== null && can('promotes') === 0 && rule.kind === 'accepts'
        ? ['can be promoted to by nobody']
        : []),
      ...mergesNowhere(map, rule, refs),
    ];
    return messages.map((message) => ({ rule: name, message }));
  });
}

/** A family that takes what is proposed into branches which no environment follows: a merge of it goes nowhere. */
function mergesNowhere(
  map: DeliveryMap,
  rule: EnvironmentRule,
  refs: readonly RefReaching[],
): readonly string[] {
  if (rule.kind !== 'each') return [];
  const proposed = refs.filter(
    ({ ref, into, isOutsiders }) => !isOutsiders && into !== null && wants(rule, ref, into),
  );
  const isTaken = (into: string): boolean => {
    const ref: RefName | undefined = refOfBranch(into);
    return ref !== undefined && map.environments.some((one) => wants(one, ref, null));
  };
  const lost = proposed.filter(({ into }) => into !== null && !isTaken(into));
  const [first] = lost;
  return first === undefined
    ? []
    : [
        `has one for ${nameOfRef(first.ref)}${lost.length > 1 ? ` and ${lost.length - 1} more` : ''}, and a merge into ${first.into} goes nowhere`,
      ];
}
