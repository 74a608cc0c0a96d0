import type { Instant } from '../instant.ts';
import type { CommitId, RefName } from '../refs/ref-name.ts';
import type { RefSeen } from './check-map.ts';
import { type DeliveryMap, type Family, ruleNamed } from './delivery-map.ts';
import { wants } from './destinations.ts';
import { endOf, type Lasting } from './family-end.ts';

/** A ref that is there, and the commit that it is at. */
export interface Head extends RefSeen {
  readonly commit: CommitId;
}

/** An environment of a family that lives. */
export interface Living extends Lasting {
  readonly name: string;
  readonly rule: string;
  readonly ref: RefName;
  /** The newest commit that it has noticed; null where that was never kept. */
  readonly head: CommitId | null;
}

/** Why an environment of a family ended. */
export type EndedBecause = 'closed' | 'untouched' | 'crowded' | 'asked' | 'unruled' | 'project';

const endings: Readonly<Record<EndedBecause, string>> = {
  closed: 'its pull request or branch has ended',
  untouched: 'nothing came to it for long',
  crowded: 'newer ones took its room',
  asked: 'somebody ended it',
  unruled: 'the map has no rule for it any more',
  project: 'its project has ended',
};

/** Why an environment ended, as a clause; an end of a kind that a later version has is told as one by the map. */
export function endedInWords(because: string): string {
  return endings[because as EndedBecause] ?? endings.unruled;
}

/** An environment of a family that lived. */
export interface Ended {
  readonly rule: string;
  readonly ref: RefName;
  readonly because: EndedBecause;
  /** The newest commit that it had noticed. */
  readonly commit: CommitId | null;
}

/** What is to be done so that what lives is what the map says. */
export interface Due {
  readonly starts: readonly { readonly rule: Family; readonly head: Head }[];
  /** What lives and missed a commit of its ref, which was not wanted as it came. */
  readonly feeds: readonly { readonly rule: Family; readonly head: Head }[];
  readonly ends: readonly { readonly name: string; readonly because: EndedBecause }[];
  /** Whose ref has gone, or is there again. */
  readonly closes: readonly { readonly name: string; readonly at: Instant | null }[];
}

/**
 * What of the families should live now. An environment starts for each ref that matches and has none; it ends some time
 * after its ref has, or after its newest commit. One that ended since it was untouched, crowded out, or by somebody's
 * wish comes back with a new commit only.
 */
export function whatLives(
  map: DeliveryMap,
  {
    heads,
    living,
    ended,
    now,
  }: {
    readonly heads: readonly Head[];
    readonly living: readonly Living[];
    readonly ended: readonly Ended[];
    readonly now: Instant;
  },
): Due {
  const there = new Map(heads.map((head) => [head.ref, head]));
  const lives = new Set(living.map(({ rule, ref }) => key(rule, ref)));
  const before = new Map(ended.map((one) => [key(one.rule, one.ref), one]));
  const closes: { name: string; at: Instant | null }[] = [];
  const ends: { name: string; because: EndedBecause }[] = [];
  const feeds: { rule: Family; head: Head }[] = [];
  for (const one of living) {
    const rule = ruleNamed(map, one.rule);
    const head = there.get(one.ref);
    const isThere = rule?.kind === 'each' && head !== undefined && wants(rule, head.ref, head.into);
    const closedAt = isThere ? null : (one.closedAt ?? now);
    if (closedAt !== one.closedAt) closes.push({ name: one.name, at: closedAt });
    if (rule?.kind !== 'each') continue;
    const end = endOf(rule.ends, { ...one, closedAt });
    if (end.at <= now) ends.push({ name: one.name, because: end.because });
    else if (isThere && one.head !== null && one.head !== head.commit) feeds.push({ rule, head });
  }
  const families = map.environments.filter((rule): rule is Family => rule.kind === 'each');
  const going = new Set(ends.map(({ name }) => name));
  const starts = families.flatMap((rule) => {
    const wanted = heads.filter(
      ({ ref, into, commit }) =>
        wants(rule, ref, into) &&
        !lives.has(key(rule.name, ref)) &&
        comesBack(before.get(key(rule.name, ref)), commit),
    );
    const staying = living.filter((one) => one.rule === rule.name && !going.has(one.name));
    // A family never gives way to what was there before anybody asked for it: only a new commit makes room.
    return wanted
      .slice(0, Math.max(0, rule.atMost - staying.length))
      .map((head) => ({ rule, head }));
  });
  return { starts, feeds, ends, closes };
}

function comesBack(before: Ended | undefined, commit: CommitId): boolean {
  if (before === undefined || before.commit !== commit) return true;
  // Its ref had gone, or the map had no rule for it: both are undone by what brought them about.
  return before.because === 'closed' || before.because === 'unruled';
}

function key(rule: string, ref: RefName): string {
  return `${rule} ${ref}`;
}

/** Those that end so that one more fits into a family: the longest untouched of those that nobody keeps. */
export function makesRoom(
  rule: Family,
  living: readonly Living[],
  now: Instant,
): readonly Living[] {
  const own = living.filter((one) => one.rule === rule.name);
  return own
    .filter(({ keptUntil }) => keptUntil === null || keptUntil <= now)
    .toSorted((one, other) => one.touchedAt - other.touchedAt || (one.name < other.name ? -1 : 1))
    .slice(0, Math.max(0, own.length - rule.atMost + 1));
}
