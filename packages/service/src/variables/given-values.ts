import { destinationOf, mapOne, type Recipe, readRefName, type Trust } from '@vaquero/core';
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

/**
 * The values that a build of a ref is given: only names that its recipe reads, only where the map sends
 * the ref, and none to code of outsiders; an environment's own value before the project's. `unset` are names without any.
 */
export async function givenValues(
  deps: Deps,
  db: Db | Tx,
  project: ProjectRow,
  { ref, trust }: { readonly ref: string; readonly trust: Trust },
  recipe: Recipe,
): Promise<{ readonly values: readonly GivenValue[]; readonly unset: readonly string[] }> {
  const names = namesRead(recipe);
  if (names.length === 0) return { values: [], unset: [] };
  const read = readRefName(ref);
  const environments =
    read === undefined || trust === 'outsider'
      ? []
      : destinationOf(mapOne(project.branch), read).environments;
  if (environments.length === 0) return { values: [], unset: names };
  const rows = await variablesOf(db, project.id);
  const values = names.flatMap((name): readonly GivenValue[] => {
    const own = rows.filter((row) => row.name === name);
    const row =
      own.find((each) => environments.includes(each.environment)) ??
      own.find((each) => each.environment === '');
    return row === undefined
      ? []
      : [
          {
            name,
            value: openValue(deps.keys.sealing, placeOf(row), row.sealed),
            secret: row.kind === 'secret',
          },
        ];
  });
  const set = new Set(values.map((one) => one.name));
  return { values, unset: names.filter((name) => !set.has(name)) };
}
