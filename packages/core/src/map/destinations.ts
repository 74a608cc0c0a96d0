import { isForRef } from '../recipes/for-ref.ts';
import { nameOfRef } from '../refs/pull-request.ts';
import type { RefName } from '../refs/ref-name.ts';
import {
  type DeliveryMap,
  type EnvironmentRule,
  type Family,
  type Following,
  ruleInWords,
} from './delivery-map.ts';

/** Where a ref goes, and why, in words for people. */
export interface Destination {
  /** The rules that want it, in lane order; those of families want it in an environment of its own. */
  readonly rules: readonly (Following | Family)[];
  readonly why: string;
}

/** Says which rules want a ref. `into` is the branch that a pull request would be merged into, if the ref is one's head. */
export function destinationOf(
  map: DeliveryMap,
  ref: RefName,
  into: string | null = null,
): Destination {
  const rules = map.environments.filter((rule) => wants(rule, ref, into));
  if (rules.length > 0) return { rules, why: wantedBy(rules, ref, into) };
  const wanted = map.environments.flatMap((rule) =>
    rule.kind === 'accepts' ? [] : [`${rule.name} ${inside(rule)}`],
  );
  return {
    rules: [],
    why: `no environment wants ${nameOfRef(ref)}: ${wanted.join(', ') || 'none takes refs'}`,
  };
}

/** In words: the rules that want a ref. */
export function wantedBy(
  rules: readonly (Following | Family)[],
  ref: RefName,
  into: string | null,
): string {
  const said = rules.map((rule) =>
    rule.kind === 'follows'
      ? `${rule.name} follows ${nameOfRef(ref)}`
      : `${rule.name} has one for each ${into === null ? nameOfRef(ref) : `pull request into ${into}`}`,
  );
  return said.join(' and ');
}

function inside(rule: EnvironmentRule): string {
  return rule.kind === 'each' ? `has ${ruleInWords(rule)}` : ruleInWords(rule);
}

/** Whether a rule takes commits of a ref by itself. */
export function wants(
  rule: EnvironmentRule,
  ref: RefName,
  into: string | null,
): rule is Following | Family {
  if (rule.kind === 'accepts') return false;
  return isForRef(rule.kind === 'follows' ? rule.follows : rule.each, ref, into);
}

/** The family that has none of what outsiders propose built, among those that match; null where a member's word is enough. */
export function neverBuiltBy(map: DeliveryMap, ref: RefName, into: string | null): string | null {
  const never = map.environments.find(
    (rule) => rule.kind === 'each' && rule.outsiders.build === 'never' && wants(rule, ref, into),
  );
  return never?.name ?? null;
}

/**
 * Whether a family would have an environment for a ref if members had written it, and has it built on a member's word: it is
 * built as for the family, and looked at by its build's own address.
 */
export function builtOnWord(map: DeliveryMap, ref: RefName, into: string | null): boolean {
  return map.environments.some(
    (rule) => rule.kind === 'each' && rule.outsiders.build === 'on-word' && wants(rule, ref, into),
  );
}

/** The family that lets nothing of what outsiders propose reach out, among those that match; null where their steps may as they say. */
export function shutInBy(map: DeliveryMap, ref: RefName, into: string | null): string | null {
  const shut = map.environments.find(
    (rule) => rule.kind === 'each' && rule.outsiders.network === 'none' && wants(rule, ref, into),
  );
  return shut?.name ?? null;
}

/** One rule's answer to a ref. */
export interface Answer {
  readonly rule: string;
  readonly isMatch: boolean;
  readonly why: string;
}

/** Every rule's answer to a ref: which matched, which did not, and why not. */
export function answersTo(map: DeliveryMap, ref: RefName, into: string | null): readonly Answer[] {
  return map.environments.map((rule) => {
    const isMatch = wants(rule, ref, into);
    const why = isMatch
      ? `it ${inside(rule)}`
      : rule.kind === 'accepts'
        ? `it takes no ref: it ${inside(rule)}`
        : `${nameOfRef(ref)} is not among them: it ${inside(rule)}`;
    return { rule: rule.name, isMatch, why };
  });
}
