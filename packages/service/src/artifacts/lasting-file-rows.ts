import { setImmediate as pause } from 'node:timers/promises';
import { type Digest, type Manifest, makeImmutable, rulesOfManifest } from '@vaquero/core';
import { and, desc, eq, gte, inArray, lte } from 'drizzle-orm';
import { sha256 } from '../base/sha256.ts';
import type { Db, Tx } from '../database/pool.ts';
import { builds, deploys, lastingFiles } from '../database/tables.ts';

/** So long browsers are taken to hold what was served as lasting; they may for a year, and seldom do. */
const heldMs = 30 * 86_400_000;

/** An address whose bytes browsers keep, and the build that served others there. */
export interface Changed {
  readonly address: string;
  readonly build: number;
}

/** A file that never changes under its address. */
export type LastingFile = typeof lastingFiles.$inferInsert;
type Row = LastingFile;

/** The files of an artifact that never change under their address. */
export async function lastingOf(artifact: Digest, manifest: Manifest): Promise<readonly Row[]> {
  const rules = rulesOfManifest(manifest);
  if (rules.immutable.length === 0) return [];
  const isLasting = makeImmutable(rules);
  const rows: Row[] = [];
  for (const [place, { path, digest: file }] of manifest.site.files.entries()) {
    // Patterns over hundreds of thousands of files take seconds, in which others are to be answered.
    if (place % together === together - 1) await pause();
    if (!isLasting(path)) continue;
    const address = `${rules.base}${path}`;
    rows.push({ artifact, addressKey: sha256(address), address, file });
  }
  return rows;
}

const together = 2000;

/** Keeps what of an artifact never changes. */
export async function keepLasting(tx: Tx, rows: readonly Row[]): Promise<void> {
  for (let from = 0; from < rows.length; from += 1000)
    await tx
      .insert(lastingFiles)
      .ignore()
      .values(rows.slice(from, from + 1000));
}

/** Whether anything of an artifact is said to last. */
export async function hasLasting(db: Db, artifact: Digest): Promise<boolean> {
  const [row] = await db
    .select({ artifact: lastingFiles.artifact })
    .from(lastingFiles)
    .where(eq(lastingFiles.artifact, artifact))
    .limit(1);
  return row !== undefined;
}

/**
 * Of files that are said to last those that answered with other bytes, said to last too, in an environment within the
 * last 30 days, each with the newest build that did. What was served when they began counts as well.
 */
export async function changedAmong(
  tx: Db | Tx,
  environmentId: string,
  lasting: readonly Pick<Row, 'address' | 'addressKey' | 'file'>[],
  now: number,
): Promise<readonly Changed[]> {
  const [first] = await tx
    .select({ number: deploys.number })
    .from(deploys)
    .where(and(eq(deploys.environmentId, environmentId), lte(deploys.committedAt, now - heldMs)))
    .orderBy(desc(deploys.committedAt), desc(deploys.number))
    .limit(1);
  const fileAt = new Map(lasting.map((row) => [row.addressKey, row.file]));
  const changed = new Map<string, number>();
  const keys = [...fileAt.keys()];
  for (let from = 0; from < keys.length; from += 1000) {
    const rows = await tx
      .select({
        key: lastingFiles.addressKey,
        address: lastingFiles.address,
        file: lastingFiles.file,
        build: builds.number,
      })
      .from(lastingFiles)
      .innerJoin(
        deploys,
        and(
          eq(deploys.artifact, lastingFiles.artifact),
          eq(deploys.environmentId, environmentId),
          gte(deploys.number, first?.number ?? 0),
        ),
      )
      .innerJoin(builds, eq(builds.id, deploys.buildId))
      .where(inArray(lastingFiles.addressKey, keys.slice(from, from + 1000)))
      .orderBy(desc(deploys.number));
    for (const row of rows)
      if (row.file !== fileAt.get(row.key) && !changed.has(row.address))
        changed.set(row.address, row.build);
  }
  return [...changed].map(([address, build]) => ({ address, build }));
}

/** The first of an artifact's lasting files that an environment served with other bytes; null when there is none. */
export async function changedLasting(
  tx: Db | Tx,
  environmentId: string,
  artifact: Digest,
  now: number,
): Promise<Changed | null> {
  const lasting = await tx.select().from(lastingFiles).where(eq(lastingFiles.artifact, artifact));
  const [first] = await changedAmong(tx, environmentId, lasting, now);
  return first ?? null;
}
