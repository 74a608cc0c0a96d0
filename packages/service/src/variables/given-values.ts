import { type DeliveryMap, type Recipe, ruleNamed, type Trust } from '@vaquero/core';
import type { Db, Tx } from '../database/pool.ts';
import type { Deps } from '../deps.ts';
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

/**
 * The values that a build is given: only names that its recipe reads, only where the map sends its ref and gives that
 * name there, and none to code of outsiders; an environment's own value before the project's. `unset` are names without any.
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
    const row =
      own.find((each) => givers.some((giver) => giver.name === each.environment)) ??
      own.find((each) => each.environment === '');
    if (row === undefined) return [];
    const value = openValue(deps.keys.sealing, placeOf(row), row.sealed);
    return [{ name, value, secret: row.kind === 'secret' }];
  });
  const set = new Set(values.map((one) => one.name));
  return { values, unset: names.filter((name) => !set.has(name)) };
}
