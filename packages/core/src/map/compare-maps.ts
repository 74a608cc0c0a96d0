import { holdingByDefault } from '../evidence/inspection-rules.ts';
import type { Instant } from '../instant.ts';
import type { RefName } from '../refs/ref-name.ts';
import type { Admits } from '../serving/admission.ts';
import { ruleAfter, rulesGone } from './check-map.ts';
import { type DeliveryMap, type EnvironmentRule, ruleInWords, ruleNamed } from './delivery-map.ts';
import { wants } from './destinations.ts';
import { whoInWords } from './map-rights.ts';
import { spanInWords } from './span-in-words.ts';
import { type Ended, type Head, type Living, whatLives } from './what-lives.ts';

/** What a ref is sent to by one map and by another. */
export interface RefMoves {
  readonly ref: RefName;
  readonly before: readonly string[];
  readonly after: readonly string[];
}

/** What would change if a map took another's place. */
export interface MapDifference {
  /** Rules that are new, gone, renamed, or say something else. */
  readonly rules: readonly {
    readonly rule: string;
    readonly how: 'new' | 'gone' | 'renamed' | 'changed';
    readonly before: string | null;
    readonly after: string | null;
  }[];
  readonly refs: readonly RefMoves[];
  /** Environments of families that would start: one for each of these refs. */
  readonly starts: readonly { readonly rule: string; readonly ref: RefName }[];
  /** Living environments that would end, since their rule is gone. */
  readonly ends: readonly string[];
  /** Environments of families whose ref is no longer among theirs: they end after their time. */
  readonly leaves: readonly string[];
}

/** What is there when maps are compared. */
export interface Present {
  readonly heads: readonly Head[];
  readonly living: readonly Living[];
  readonly ended: readonly Ended[];
  /** Names of living environments that are no family's. */
  readonly standing: readonly string[];
  readonly now: Instant;
}

/** What two maps say otherwise, rule by rule. */
export function compareRules(before: DeliveryMap, after: DeliveryMap): MapDifference['rules'] {
  return [...rulesGone(before, after).map((rule) => goneRule(rule)), ...ruleChanges(before, after)];
}

/** Compares two maps over what is there: what starts, ends, moves. */
export function compareMaps(
  before: DeliveryMap,
  after: DeliveryMap,
  present: Present,
): MapDifference {
  const gone = rulesGone(before, after);
  const goneNames = new Set(gone.map(({ name }) => name));
  const renamed = (name: string): string => ruleAfter(before, after, name)?.name ?? name;
  const living = present.living
    .filter(({ rule }) => !goneNames.has(rule))
    .map((one) => ({ ...one, rule: renamed(one.rule) }));
  const ended = present.ended.map((one) => ({ ...one, rule: renamed(one.rule) }));
  const due = whatLives(after, { ...present, living, ended });
  const kept = new Map(living.map((one) => [one.name, one]));
  return {
    rules: compareRules(before, after),
    refs: present.heads.flatMap((head) => movesOf(before, after, head, renamed)),
    starts: due.starts.map(({ rule, head }) => ({ rule: rule.name, ref: head.ref })),
    ends: [
      ...present.standing.filter((name) => goneNames.has(name)),
      ...present.living.filter(({ rule }) => goneNames.has(rule)).map(({ name }) => name),
    ],
    leaves: due.closes
      .filter(({ name, at }) => at !== null && kept.get(name)?.closedAt === null)
      .map(({ name }) => name),
  };
}

function goneRule(rule: EnvironmentRule): MapDifference['rules'][number] {
  return { rule: rule.name, how: 'gone', before: inWords(rule), after: null };
}

function ruleChanges(before: DeliveryMap, after: DeliveryMap): MapDifference['rules'] {
  return after.environments.flatMap((rule, place): MapDifference['rules'] => {
    const was = rule.was === null ? undefined : ruleNamed(before, rule.was);
    const isRenamed = was !== undefined && ruleAfter(before, after, was.name) === rule;
    const old = ruleNamed(before, rule.name) ?? (isRenamed ? was : undefined);
    if (old === undefined)
      return [{ rule: rule.name, how: 'new', before: null, after: inWords(rule) }];
    const said = `${inWords(old)}${laneInWords(before.environments.indexOf(old))}`;
    const says = `${inWords(rule)}${laneInWords(place)}`;
    if (old.name !== rule.name)
      return [{ rule: rule.name, how: 'renamed', before: `${old.name}: ${said}`, after: says }];
    return said === says ? [] : [{ rule: rule.name, how: 'changed', before: said, after: says }];
  });
}

function laneInWords(place: number): string {
  return place === 0 ? ', at the top' : `, lane ${place + 1}`;
}

/** What a rule admits that does not say. */
function usualAdmits({ kind }: EnvironmentRule): Admits {
  return kind === 'each' ? 'members' : 'anyone';
}

function isUsual(stops: EnvironmentRule['stops']): boolean {
  return [...stops].sort().join() === [...holdingByDefault].sort().join();
}

function inWords(rule: EnvironmentRule): string {
  const gives = rule.gives === 'every' ? 'every name' : rule.gives.join(', ') || 'no name';
  const more = [
    `given ${gives}`,
    ...Object.entries(rule.may).map(([act, who]) => `${act} by ${whoInWords(who)}`),
    ...(rule.admits === usualAdmits(rule) ? [] : [`admits ${rule.admits}`]),
    ...(rule.marks ? ['its pages are marked'] : []),
    ...(rule.pictures ? ['changed pages are pictured'] : []),
    ...(rule.overtaken === 'stop' ? ['a newer commit stops the older build'] : []),
    ...(isUsual(rule.stops) ? [] : [`stopped by ${rule.stops.join(', ') || 'no finding'}`]),
    ...(rule.kind === 'each'
      ? [
          `at most ${rule.atMost}`,
          `ends ${spanInWords(rule.ends.closedMs)} after its ref and ${spanInWords(rule.ends.untouchedMs)} after its newest commit`,
          ...(rule.outsiders.build === 'never' ? ['outsiders’ code is never built'] : []),
          ...(rule.outsiders.network === 'none' ? ['outsiders’ code reaches no network'] : []),
        ]
      : []),
  ];
  return `${ruleInWords(rule)}; ${more.join('; ')}`;
}

function movesOf(
  before: DeliveryMap,
  after: DeliveryMap,
  { ref, into }: Head,
  renamed: (name: string) => string,
): readonly RefMoves[] {
  const namesIn = (map: DeliveryMap): readonly string[] =>
    map.environments.filter((rule) => wants(rule, ref, into)).map(({ name }) => name);
  const was = namesIn(before);
  const is = namesIn(after);
  return was.map(renamed).join() === is.join() ? [] : [{ ref, before: was, after: is }];
}
