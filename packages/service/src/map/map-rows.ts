import { readMap } from '@vaquero/contracts';
import type { DeliveryMap, Instant } from '@vaquero/core';
import { and, desc, eq } from 'drizzle-orm';
import { Impossible } from '../base/refused.ts';
import type { Db, Tx } from '../database/pool.ts';
import { maps, people } from '../database/tables.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

/** What names a version of a project's map. */
export type OfMap = Pick<ProjectRow, 'id' | 'mapVersion' | 'branch'>;

/** A version is never changed, so each is read and understood once. */
const understood = new Map<string, DeliveryMap>();
const mostUnderstood = 2_000;

/** The map of a project in the version that its row names. */
export async function mapOf(db: Db | Tx, { id, mapVersion, branch }: OfMap): Promise<DeliveryMap> {
  const key = `${id} ${mapVersion} ${branch}`;
  const known = understood.get(key);
  if (known !== undefined) return known;
  const row = await mapRow(db, id, mapVersion);
  if (row === undefined) throw new Impossible(`project ${id} has no map ${mapVersion}`);
  const read = readMap(row.text, mapVersion, branch);
  if (!read.ok) throw new Impossible(`map ${mapVersion} of project ${id} cannot be read`);
  if (understood.size >= mostUnderstood) understood.clear();
  understood.set(key, read.value);
  return read.value;
}

async function mapRow(db: Db | Tx, projectId: string, version: number) {
  const [row] = await db
    .select()
    .from(maps)
    .where(and(eq(maps.projectId, projectId), eq(maps.version, version)));
  return row;
}

/** A version of a map and who set it. */
export interface MapVersion {
  readonly version: number;
  readonly text: string;
  readonly by: string | null;
  readonly at: Instant;
  readonly reason: string | null;
}

/** Every version of a project's map, the newest first. */
export async function versionsOf(
  db: Db | Tx,
  projectId: string,
  limit = 200,
): Promise<readonly MapVersion[]> {
  const rows = await db
    .select({ map: maps, by: people.shownAs })
    .from(maps)
    .leftJoin(people, eq(people.id, maps.personId))
    .where(eq(maps.projectId, projectId))
    .orderBy(desc(maps.version))
    .limit(limit);
  return rows.map(({ map, by }) => ({
    version: map.version,
    text: map.text,
    by,
    at: map.at as Instant,
    reason: map.reason,
  }));
}

/** Writes a version of a map. */
export async function insertMap(tx: Tx, row: typeof maps.$inferInsert): Promise<void> {
  await tx.insert(maps).values(row);
}
