import type { Instant } from '@vaquero/core';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { people, variables } from '../database/tables.ts';

export type VariableRow = typeof variables.$inferSelect;

/** All variables of a project, by name, with who set them. */
export async function variablesOf(
  db: Db | Tx,
  projectId: string,
): Promise<readonly (VariableRow & { readonly by: string })[]> {
  const rows = await db
    .select({ variable: variables, by: people.shownAs })
    .from(variables)
    .leftJoin(people, eq(people.id, variables.setBy))
    .where(eq(variables.projectId, projectId))
    .orderBy(asc(variables.name), asc(variables.environment));
  return rows.map(({ variable, by }) => ({ ...variable, by: by ?? 'Vaquero' }));
}

/** A variable as it is set, locked until the transaction ends. */
export async function variableAt(
  tx: Tx,
  { projectId, environment, name }: Pick<VariableRow, 'projectId' | 'environment' | 'name'>,
): Promise<VariableRow | undefined> {
  const [row] = await tx
    .select()
    .from(variables)
    .where(
      and(
        eq(variables.projectId, projectId),
        eq(variables.environment, environment),
        eq(variables.name, name),
      ),
    )
    .for('update');
  return row;
}

export async function putVariable(tx: Tx, row: VariableRow): Promise<void> {
  const { kind, sealed, setBy, setAt } = row;
  await tx
    .insert(variables)
    .values(row)
    .onDuplicateKeyUpdate({ set: { kind, sealed, setBy, setAt, usedAt: null } });
}

export async function dropVariable(
  tx: Tx,
  projectId: string,
  environment: string,
  name: string,
): Promise<boolean> {
  const [done] = await tx
    .delete(variables)
    .where(
      and(
        eq(variables.projectId, projectId),
        eq(variables.environment, environment),
        eq(variables.name, name),
      ),
    );
  return done.affectedRows === 1;
}

export async function noteUse(
  db: Db | Tx,
  projectId: string,
  names: readonly string[],
  at: Instant,
): Promise<void> {
  if (names.length === 0) return;
  await db
    .update(variables)
    .set({ usedAt: at })
    .where(and(eq(variables.projectId, projectId), inArray(variables.name, [...names])));
}

/** The secrets of a project, sealed. */
export function secretsOf(db: Db | Tx, projectId: string) {
  return db
    .select()
    .from(variables)
    .where(and(eq(variables.projectId, projectId), eq(variables.kind, 'secret')));
}
