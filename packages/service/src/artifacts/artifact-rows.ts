import type { Digest } from '@vaquero/core';
import { and, eq, gte, inArray, isNull } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { artifacts } from '../database/tables.ts';

/** The form of an artifact's manifest. */
export async function formatOf(db: Db, projectId: string, digest: Digest): Promise<number> {
  const [row] = await db
    .select({ format: artifacts.format })
    .from(artifacts)
    .where(and(eq(artifacts.projectId, projectId), eq(artifacts.digest, digest)));
  return row?.format ?? 1;
}

/** Bytes of the artifacts of a project that some digests name. */
export async function bytesOf(
  db: Db,
  projectId: string,
  digests: readonly Digest[],
): Promise<ReadonlyMap<string, number>> {
  if (digests.length === 0) return new Map();
  const rows = await db
    .select({ digest: artifacts.digest, bytes: artifacts.bytes })
    .from(artifacts)
    .where(and(eq(artifacts.projectId, projectId), inArray(artifacts.digest, [...digests])));
  return new Map(rows.map(({ digest, bytes }) => [digest, Number(bytes)]));
}

/** The projects that keep an artifact of a digest. */
export async function projectsHolding(db: Db, digest: Digest): Promise<readonly string[]> {
  const rows = await db
    .select({ id: artifacts.projectId })
    .from(artifacts)
    .where(and(eq(artifacts.digest, digest), isNull(artifacts.goneAt)));
  return rows.map(({ id }) => id);
}

/** Writes an artifact down; one that was taken away once is there again. */
export async function storeArtifact(tx: Tx, row: typeof artifacts.$inferInsert): Promise<void> {
  await tx
    .insert(artifacts)
    .values(row)
    .onDuplicateKeyUpdate({ set: { goneAt: null } });
}

/** Whether the bytes of a project's artifact are kept. */
export async function isKept(db: Db, projectId: string, digest: Digest): Promise<boolean> {
  const [row] = await db
    .select({ digest: artifacts.digest })
    .from(artifacts)
    .where(
      and(
        eq(artifacts.projectId, projectId),
        eq(artifacts.digest, digest),
        isNull(artifacts.goneAt),
      ),
    );
  return row !== undefined;
}

/** The artifacts whose bytes are kept and that were stored at some instant or later. */
export async function keptSince(db: Db, since: number): Promise<readonly Digest[]> {
  const rows = await db
    .selectDistinct({ digest: artifacts.digest })
    .from(artifacts)
    .where(and(isNull(artifacts.goneAt), gte(artifacts.storedAt, since)));
  return rows.map(({ digest }) => digest);
}
