import { isPattern } from '../recipes/glob.ts';
import type { RefName } from '../refs/ref-name.ts';
import {
  type DeliveryMap,
  type EnvironmentRule,
  refsInWords,
  ruleNamed,
  sourceOf,
} from './delivery-map.ts';
import { wants } from './destinations.ts';
import { isMeantOtherwise } from './family-name.ts';

/** What is wrong with a map, at a key of its document. */
export interface MapFault {
  readonly path: readonly (string | number)[];
  readonly message: string;
}

/** What keeps a map from being set: names, lanes, circles. */
export function mapFaults(
  { environments }: DeliveryMap,
  lanes: readonly string[],
): readonly MapFault[] {
  return [
    ...laneFaults(environments, lanes),
    ...environments.flatMap((rule) => [...nameFaults(rule), ...acceptFaults(rule, environments)]),
    ...topFaults(environments),
  ];
}

/** So many environments of one map may live at once: standing ones, and what its families may hold. */
const mostLiving = 500;

/**
 * What keeps a map from being set that may stand already: one that was set before there was this limit is read all the
 * same, and has room for what lives.
 */
export function newMapFaults({ environments }: DeliveryMap): readonly MapFault[] {
  const families = environments.flatMap((rule) => (rule.kind === 'each' ? [rule] : []));
  const standing = environments.length - families.length;
  const wanted = standing + families.reduce((sum, { atMost }) => sum + atMost, 0);
  const largest = families.toSorted((one, other) => other.atMost - one.atMost)[0];
  return wanted <= mostLiving || largest === undefined
    ? []
    : [
        {
          path: ['environments', largest.name],
          message: `${wanted} environments might live at once, where ${mostLiving} may: let at-most of the families come to ${mostLiving - standing} together (left out, it is 20)`,
        },
      ];
}

function laneFaults(
  environments: readonly EnvironmentRule[],
  lanes: readonly string[],
): readonly MapFault[] {
  const known = new Set(environments.map(({ name }) => name));
  return [
    ...lanes.flatMap((lane, place) =>
      lanes.indexOf(lane) === place
        ? []
        : [{ path: ['lanes', place], message: `names ${lane} twice` }],
    ),
    ...lanes.flatMap((lane, place) =>
      known.has(lane)
        ? []
        : [{ path: ['lanes', place], message: `there is no environment ${lane}` }],
    ),
    ...environments.flatMap(({ name }) =>
      lanes.includes(name)
        ? []
        : [{ path: ['environments', name], message: 'has no lane: add it to lanes' }],
    ),
  ];
}

function nameFaults({ name, was }: EnvironmentRule): readonly MapFault[] {
  const path = ['environments', name];
  return [
    ...(isMeantOtherwise(name)
      ? [{ path, message: 'is a name that pull requests and artifacts have' }]
      : []),
    ...(was === name ? [{ path: [...path, 'was'], message: 'is the name that it has' }] : []),
  ];
}

function acceptFaults(rule: EnvironmentRule, all: readonly EnvironmentRule[]): readonly MapFault[] {
  const from = sourceOf(rule);
  if (from === null) return [];
  const path = ['environments', rule.name, 'accepts', 'from'];
  const source = all.find(({ name }) => name === from);
  if (source === undefined) return [{ path, message: `there is no environment ${from}` }];
  if (source.kind === 'each')
    return [{ path, message: `${from} is a family: one environment is accepted from` }];
  const seen = new Set([rule.name]);
  for (let at: EnvironmentRule | undefined = source; at !== undefined; ) {
    if (seen.has(at.name))
      return [{ path, message: `goes in a circle: ${[...seen, at.name].join(' accepts from ')}` }];
    seen.add(at.name);
    const next: string | null = sourceOf(at);
    at = all.find(({ name }) => name === next);
  }
  return [];
}

function topFaults([top]: readonly EnvironmentRule[]): readonly MapFault[] {
  if (top === undefined) return [];
  return [
    ...(top.kind === 'each'
      ? [
          {
            path: ['lanes', 0],
            message: `${top.name} is a family; the top lane is one environment`,
          },
        ]
      : []),
    ...(top.marks
      ? [
          {
            path: ['environments', top.name, 'marks'],
            message: 'is for what stands below the top: what is live for all bears no mark of ours',
          },
        ]
      : []),
  ];
}

/** A ref as the map is asked about it. */
export interface RefSeen {
  readonly ref: RefName;
  /** The branch that it would be merged into, if it is the head of a pull request. */
  readonly into: string | null;
}

/** What may be meant otherwise than it is written: told, and no reason to refuse. */
export function mapWarnings(map: DeliveryMap, refs: readonly RefSeen[]): readonly MapFault[] {
  const families = map.environments.filter((rule) => rule.kind === 'each');
  const shared = refs.find(
    ({ ref, into }) => families.filter((rule) => wants(rule, ref, into)).length > 1,
  );
  return [
    ...map.environments.flatMap((rule) => ruleWarnings(map, rule, refs)),
    ...(shared === undefined
      ? []
      : [
          {
            path: ['environments'],
            message: `${families.map(({ name }) => name).join(' and ')} each have one for the same refs, such as ${shared.ref.replace(/^refs\/\w+\//, '')}`,
          },
        ]),
  ];
}

function ruleWarnings(
  map: DeliveryMap,
  rule: EnvironmentRule,
  refs: readonly RefSeen[],
): readonly MapFault[] {
  const path = ['environments', rule.name];
  if (rule.kind === 'accepts')
    return rule.gives === 'every' || rule.gives.length === 0
      ? []
      : [{ path: [...path, 'gives'], message: 'nothing is built for it, so nothing is given' }];
  const matching = refs.filter(({ ref, into }) => wants(rule, ref, into));
  const said = rule.kind === 'follows' ? rule.follows : rule.each;
  const reachesTop = map.environments[0];
  const ownBranch = reachesTop?.kind === 'follows' ? reachesTop.follows.branch : [];
  const names = [...said.branch, ...said.tag];
  return [
    ...(matching.length === 0 && refs.length > 0
      ? [{ path, message: `no present ref is ${refsInWords(said)}` }]
      : []),
    ...(rule.kind === 'follows' && (names.length > 1 || names.some(isPattern))
      ? [{ path, message: 'several refs go there: what is noticed last is what it serves' }]
      : []),
    ...(rule.kind === 'each' && said.proposedInto.some((into) => ownBranch.includes(into))
      ? [
          {
            path,
            message: `takes what is proposed into ${said.proposedInto.join(' and ')}, which ${reachesTop?.name} follows by itself`,
          },
        ]
      : []),
  ];
}

/** The rules that a map would no longer have: neither by their name nor renamed, or a family where one environment was. */
export function rulesGone(before: DeliveryMap, after: DeliveryMap): readonly EnvironmentRule[] {
  return before.environments.filter((rule) => {
    const next = ruleAfter(before, after, rule.name);
    return next === undefined || (next.kind === 'each') !== (rule.kind === 'each');
  });
}

/**
 * What a rule of one map is by the next: the one of its name, or that which says it was called so. A renaming that is
 * carried out already says nothing more.
 */
export function ruleAfter(
  before: DeliveryMap,
  after: DeliveryMap,
  name: string,
): EnvironmentRule | undefined {
  return (
    ruleNamed(after, name) ??
    after.environments.find(
      (rule) => rule.was === name && ruleNamed(before, rule.name) === undefined,
    )
  );
}
