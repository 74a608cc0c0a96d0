import type { DeliveryMap, Destination, RefName } from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import type { Deps } from '../base/deps.ts';
import type { Tx } from '../database/pool.ts';
import { ensureOfFamily } from '../environments/family-rows.ts';
import { lockProject, type ProjectRow } from '../projects/project-rows.ts';

interface Named {
  readonly project: ProjectRow;
  readonly map: DeliveryMap;
  readonly destination: Destination;
  readonly ref: RefName;
  readonly doing: Doing;
}

/** An environment that a ref goes to, and the rule that wants it there. */
export interface WantingEnvironment {
  readonly rule: string;
  readonly name: string;
}

/** The environments that a ref goes to: those of families are made, or come back. */
export async function namedEnvironments(
  deps: Deps,
  tx: Tx,
  { project, map, destination, ref, doing }: Named,
): Promise<readonly WantingEnvironment[]> {
  const named: WantingEnvironment[] = [];
  if (destination.rules.some(({ kind }) => kind === 'each')) await lockProject(tx, project.id);
  for (const rule of destination.rules) {
    const place = map.environments.indexOf(rule);
    const name =
      rule.kind === 'follows'
        ? rule.name
        : await ensureOfFamily(deps, tx, { project, rule, place, ref, doing });
    named.push({ rule: rule.name, name });
  }
  return named;
}
