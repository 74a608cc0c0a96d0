import type { Deps } from '../base/deps.ts';
import type { Tx } from '../database/pool.ts';
import { placeOf } from './given-values.ts';
import { openValue, sealValue } from './seal.ts';
import { dropVariable, putVariable, variablesOf } from './variable-rows.ts';

/** Gives the values of an environment, or of a family, to its new name: they are sealed for that place anew. */
export async function renamePlaceOfValues(
  deps: Deps,
  tx: Tx,
  projectId: string,
  { from, to }: { readonly from: string; readonly to: string },
): Promise<void> {
  const rows = await variablesOf(tx, projectId);
  for (const { by: _, ...row } of rows.filter(({ environment }) => environment === from)) {
    const value = openValue(deps.keys.sealing, placeOf(row), row.sealed);
    const moved = { ...row, environment: to };
    await dropVariable(tx, projectId, from, row.name);
    await putVariable(tx, {
      ...moved,
      sealed: sealValue(deps.keys.sealing, placeOf(moved), value),
    });
  }
}
