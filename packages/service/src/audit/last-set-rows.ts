import { type DecisionKind, type Instant, readEntry } from '@vaquero/core';
import { and, desc, eq } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { logEntries, people } from '../database/tables.ts';

/** Who decided something of a kind last in a project, and when; null where nobody has. */
export async function lastSet(
  db: Db,
  projectId: string,
  kind: DecisionKind,
): Promise<{ readonly by: string; readonly at: Instant } | null> {
  const [row] = await db
    .select({ bytes: logEntries.bytes })
    .from(logEntries)
    .where(and(eq(logEntries.projectId, projectId), eq(logEntries.kind, kind)))
    .orderBy(desc(logEntries.position))
    .limit(1);
  if (row === undefined) return null;
  const { who, at } = readEntry(row.bytes);
  const [person] = await db
    .select({ by: people.shownAs })
    .from(people)
    .where(eq(people.id, who.id));
  return { by: person?.by ?? 'Vaquero', at };
}
