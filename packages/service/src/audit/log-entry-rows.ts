import {
  type DecisionKind,
  type Instant,
  kindsThat,
  type ReadEntry,
  readEntry,
} from '@vaquero/core';
import { and, asc, desc, eq, gt, inArray, lt, lte } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { Impossible } from '../base/refused.ts';
import type { Db } from '../database/pool.ts';
import { logEntries, logHead, logPersonal } from '../database/tables.ts';

/** An entry that cannot be read says nothing but its kind, and keeps nobody from those behind it; whoever checks the log finds it. */
const unreadable: ReadEntry = {
  form: 1,
  position: 0,
  at: 0 as Instant,
  kind: 'unreadable',
  project: null,
  who: { kind: 'vaquero', id: 'vaquero', by: null },
  through: '',
  origin: null,
  request: null,
  facts: {},
  before: null,
  after: null,
  why: null,
};

function readable(bytes: string): ReadEntry {
  try {
    return readEntry(bytes);
  } catch {
    return unreadable; // Damaged bytes: their leaf hash does not hold either.
  }
}

/** The entries after a position up to another one, in their order: all, or those of some kinds. */
export async function entriesBetween(
  db: Db,
  after: number,
  upTo: number,
  most: number,
  kinds?: readonly DecisionKind[],
): Promise<readonly ReadEntry[]> {
  const rows = await db
    .select({
      position: logEntries.position,
      kind: logEntries.kind,
      bytes: logEntries.bytes,
      projectId: logEntries.projectId,
    })
    .from(logEntries)
    .where(
      and(
        gt(logEntries.position, after),
        lte(logEntries.position, upTo),
        kinds === undefined ? undefined : inArray(logEntries.kind, [...kinds]),
      ),
    )
    .orderBy(asc(logEntries.position))
    .limit(most);
  return rows.map(({ position, kind, bytes, projectId }) => {
    const entry = readable(bytes);
    // Entries of the first form name their project without its id.
    const project = entry.project && { ...entry.project, id: projectId ?? '' };
    return { ...entry, kind, project, position };
  });
}

/** The position of the newest decision that changed what edges answer: an edge that confirmed it is up to date. */
export async function servedRevision(deps: Deps): Promise<number> {
  const [row] = await deps.db
    .select({ position: logEntries.position })
    .from(logEntries)
    .where(inArray(logEntries.kind, [...kindsThat('routing')]))
    .orderBy(desc(logEntries.position))
    .limit(1);
  return row?.position ?? 0;
}

/** The position of the newest decision: whatever was committed up to there is in what is read from now on. */
export async function headPosition(db: Db): Promise<number> {
  const [head] = await db.select().from(logHead).where(eq(logHead.id, 1));
  if (head === undefined) throw new Impossible('the log has no head row');
  return head.position;
}

/** The newest entries of a project before a position, newest first, one more than are shown. */
export function newestEntries(db: Db, projectId: string, before: number, most: number) {
  return db
    .select()
    .from(logEntries)
    .where(and(eq(logEntries.projectId, projectId), lt(logEntries.position, before)))
    .orderBy(desc(logEntries.position))
    .limit(most);
}

/** The reasons that stand beside entries, by their positions, each with the salt of its digest. */
export async function reasonsOf(
  db: Db,
  positions: readonly number[],
): Promise<ReadonlyMap<number, { readonly salt: string; readonly text: string }>> {
  if (positions.length === 0) return new Map();
  const rows = await db
    .select()
    .from(logPersonal)
    .where(and(inArray(logPersonal.position, [...positions]), eq(logPersonal.field, 'why')));
  return new Map(rows.map(({ position, salt, value }) => [position, { salt, text: value }]));
}
