import type { InspectionRule } from '../evidence/inspection-rules.ts';
import type { RefRule } from '../recipes/recipe.ts';
import type { Admits } from '../serving/admission.ts';
import type { ActsAllowed } from './map-rights.ts';

/** How long the environments of a family live on. Milliseconds. */
export interface Ends {
  /** After its branch is gone or its pull request has ended. */
  readonly closedMs: number;
  /** Without a new commit. */
  readonly untouchedMs: number;
}

interface Every {
  readonly name: string;
  /** Names of variables and secrets that its builds are given. */
  readonly gives: 'every' | readonly string[];
  /** What a newer commit does to the build of an older one. */
  readonly overtaken: 'finish' | 'stop';
  /** Findings that stop the builds that it wants. */
  readonly stops: readonly InspectionRule[];
  /** Who may promote to it, roll it back, hold it, end it. */
  readonly may: ActsAllowed;
  /** Whom its sites admit. */
  readonly admits: Admits;
  /** Whether its pages bear the brand and its name in a corner. */
  readonly marks: boolean;
  /** Whether pages that its builds change are pictured, before and after. */
  readonly pictures: boolean;
  /** The name that it had before. */
  readonly was: string | null;
}

/** Whether what passed goes live by itself, or waits for somebody's word. */
export const entrances = ['by-itself', 'on-word'] as const;
export type Entrance = (typeof entrances)[number];

/** An environment whose commits come from refs, the newest noticed last. */
export interface Following extends Every {
  readonly kind: 'follows';
  readonly follows: RefRule;
  readonly enters: Entrance;
  /** It takes only what this environment serves or has served; null where it takes whatever passed. */
  readonly from: string | null;
}

/** An environment that is promoted to. */
export interface Accepting extends Every {
  readonly kind: 'accepts';
  readonly from: string;
}

/** What becomes of the code of outsiders. */
export const outsidersBuilt = ['on-word', 'never'] as const;
export type OutsidersBuilt = (typeof outsidersBuilt)[number];

/** What a family has done with what outsiders propose and it would match. */
export interface ForOutsiders {
  /** Whether it is built on a member's word, or never. */
  readonly build: OutsidersBuilt;
  /** Whether its steps reach out where they say so, or nothing at all. */
  readonly network: 'out' | 'none';
}

/** A family: an environment of its own for every ref that matches. */
export interface Family extends Every {
  readonly kind: 'each';
  readonly each: RefRule;
  readonly enters: Entrance;
  readonly ends: Ends;
  /** More than these do not live at once: the longest untouched ends. */
  readonly atMost: number;
  readonly outsiders: ForOutsiders;
}

/** A rule of the map: what an environment serves, or what each of a family does. */
export type EnvironmentRule = Following | Accepting | Family;

/** A project's map: its environments in lane order, top first; bytes move upward. */
export interface DeliveryMap {
  readonly version: number;
  readonly name: string;
  /** The branch that ahead and behind are counted from. */
  readonly trunk: string;
  /** The time zone of clock times, by its name in the IANA database. */
  readonly zone: string;
  readonly environments: readonly EnvironmentRule[];
}

/**
 * Whether a place among the lanes is the top: it has the bare host, is found by search engines, comes first in the
 * queue, and its builds are never overtaken. No name decides that.
 */
export function isTop(place: number): boolean {
  return place === 0;
}

/** The rule of a name; undefined when the map has none. */
export function ruleNamed(map: DeliveryMap, name: string): EnvironmentRule | undefined {
  return map.environments.find((rule) => rule.name === name);
}

/** The environment whose artifacts this one accepts; null where it takes none of another's. */
export function acceptsFrom(map: DeliveryMap, rule: string): string | null {
  const found = ruleNamed(map, rule);
  return found === undefined ? null : sourceOf(found);
}

/** The environment that a rule accepts from. */
export function sourceOf(rule: EnvironmentRule): string | null {
  return rule.kind === 'each' ? null : rule.from;
}

/** How what passed enters where a rule takes it by itself. */
export function entranceOf(rule: EnvironmentRule): Entrance {
  return rule.kind === 'accepts' ? 'on-word' : rule.enters;
}

/** A rule in words, such as `follows main` or `one for each pull request into main`. */
export function ruleInWords(rule: EnvironmentRule): string {
  if (rule.kind === 'accepts') return `accepts from ${rule.from}`;
  const word = rule.enters === 'on-word' ? ', on somebody’s word' : '';
  if (rule.kind === 'each') return `one for each ${refsInWords(rule.each)}${word}`;
  const served = rule.from === null ? '' : `, once ${rule.from} has served it`;
  return `follows ${refsInWords(rule.follows)}${served}${word}`;
}

/** Refs as people say them: branches by their names alone. */
export function refsInWords({ branch, tag, proposedInto }: RefRule): string {
  return [
    ...branch,
    ...tag.map((name) => `tag ${name}`),
    ...proposedInto.map((name) => `pull request into ${name}`),
  ].join(' or ');
}

/** How the environments of a rule are shown to visitors; closed and plain where the map has no rule for them any more. */
export function shownBy(map: DeliveryMap, rule: string): Pick<Every, 'admits' | 'marks'> {
  return { admits: admitsOf(map, rule), marks: ruleNamed(map, rule)?.marks ?? false };
}

/** Whom an environment admits; members alone where the map has no rule for it any more. */
export function admitsOf(map: DeliveryMap, rule: string): Admits {
  return ruleNamed(map, rule)?.admits ?? 'members';
}
