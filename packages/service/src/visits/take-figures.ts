import type { roleRoutes } from '@vaquero/contracts';
import type { Deps } from '../base/deps.ts';
import { inTransaction } from '../database/transaction.ts';
import { environmentIds } from '../environments/environment-rows.ts';
import { noteVisits } from '../environments/family-rows.ts';
import { lockFigures, noteFigures } from '../machines/edge-rows.ts';
import { addFigures, addMisses } from './visit-rows.ts';

/**
 * Takes a batch of an edge's figures, once: its number is written down in the same transaction, so that one which is
 * told again, since the reply to it was lost, changes nothing. What names no environment is left out.
 */
export async function takeFigures(
  deps: Deps,
  edge: { readonly id: string; readonly instance: string },
  batch: roleRoutes.FiguresBatch,
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const row = await lockFigures(tx, edge.id);
    if (row === undefined || row.instance !== edge.instance || row.figures >= batch.number) return;
    const ids = await environmentIds(tx, batch.rows);
    const known = batch.rows.flatMap((one) => {
      const environmentId = ids.get(`${one.project} ${one.environment}`);
      return environmentId === undefined ? [] : [{ ...one, environmentId }];
    });
    await addFigures(
      tx,
      known.map(({ project: _, environment: __, misses: ___, ...figures }) => figures),
    );
    const visited = known.filter(({ found }) => found > 0);
    await noteVisits(tx, [...new Set(visited.map((one) => one.environmentId))], deps.clock());
    for (const { environmentId, deploy, misses } of known)
      await addMisses(tx, environmentId, deploy, misses, deps.clock());
    await noteFigures(tx, edge.id, batch.number);
  });
}
