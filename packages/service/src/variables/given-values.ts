import { type DeliveryMap, type Recipe, ruleNamed, type Trust } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { Db, Tx } from '../database/pool.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { openValue } from './seal.ts';
import { type VariableRow, variablesOf } from './variable-rows.ts';

/** A value as a step is given it. */
export interface GivenValue {
  readonly name: string;
  readonly value: string;
  readonly secret: boolean;
}

/** What a value is sealed with beside the key. */
export function placeOf(row: Pick<VariableRow, 'projectId' | 'environment' | 'name'>): string {
  return `${row.projectId}/${row.environment}/${row.name}`;
}

/** The names that a recipe's steps are given. */
export function namesRead(recipe: Recipe): readonly string[] {
  return [...new Set(recipe.steps.flatMap((step) => step.given))];
}

/** What decides which values a build is given. */
export interface Releasing {
  readonly project: ProjectRow;
  /** The rules of the map that want its ref. */
  readonly rules: readonly string[];
  readonly trust: Trust;
}

/** What a build for some of the rules is given. */
export interface GivenSet {
  /** The rules that want it. */
  readonly rules: readonly string[];
  readonly values: readonly GivenValue[];
  /** Names that its recipe reads and that have no value there. */
  readonly unset: readonly string[];
}

/**
 * What each build of a recipe is given: rules that are given the same share one, in lane order, and a ref that goes
 * nowhere is built once. Bytes that were made with the values of one environment never reach another that has others.
 */
export async function givenSets(
  deps: Deps,
  db: Db | Tx,
  map: DeliveryMap,
  { rules, ...of }: Releasing,
  recipe: Recipe,
): Promise<readonly GivenSet[]> {
  const sets = new Map<string, GivenSet>();
  for (const alone of rules.length === 0 ? [[]] : rules.map((rule) => [rule])) {
    const given = await givenValues(deps, db, map, { ...of, rules: alone }, recipe);
    const key = JSON.stringify([given.values, given.unset]);
    sets.set(key, { ...given, rules: [...(sets.get(key)?.rules ?? []), ...alone] });
  }
  return [...sets.values()];
}

/** One set of what all rules give together. */
export async function givenTogether(
  ...of: Parameters<typeof givenValues>
): Promise<readonly GivenSet[]> {
  const [, , , { rules }] = of;
  return [{ ...(await givenValues(...of)), rules }];
}

/**
 * The values that a build is given: only names that its recipe reads, only where the map sends its ref and gives that
 * name there, and none to code of outsiders; an environment's own value before the project's, and that of an environment
 * that comes earlier in the lanes before a later one's. `unset` are names without any.
 */
export async function givenValues(
  deps: Deps,
  db: Db | Tx,
  map: DeliveryMap,
  { project, rules, trust }: Releasing,
  recipe: Recipe,
): Promise<{ readonly values: readonly GivenValue[]; readonly unset: readonly string[] }> {
  const names = namesRead(recipe);
  if (names.length === 0) return { values: [], unset: [] };
  const giving = trust === 'outsider' ? [] : rules.flatMap((rule) => ruleNamed(map, rule) ?? []);
  if (giving.length === 0) return { values: [], unset: names };
  const rows = await variablesOf(db, project.id);
  const values = names.flatMap((name): readonly GivenValue[] => {
    const own = rows.filter((row) => row.name === name);
    const givers = giving.filter(({ gives }) => gives === 'every' || gives.includes(name));
    if (givers.length === 0) return [];
    const place = [...givers.map((giver) => giver.name), ''];
    const [row] = place.flatMap(
      (name) => own.find(({ environment }) => environment === name) ?? [],
    );
    if (row === undefined) return [];
    const value = openValue(deps.keys.sealing, placeOf(row), row.sealed);
    return [{ name, value, secret: row.kind === 'secret' }];
  });
  const set = new Set(values.map((one) => one.name));
  return { values, unset: names.filter((name) => !set.has(name)) };
}
