import { type Digest, type Manifest, makeImmutable, rulesOfManifest } from '@vaquero/core';
import { and, desc, eq, gte, lte, ne } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import { sha256 } from '../audit/record.ts';
import type { Db, Tx } from '../database/pool.ts';
import { builds, deploys, lastingFiles } from '../database/tables.ts';

/** So long browsers are taken to hold what was served as lasting; they may for a year, and seldom do. */
const heldMs = 30 * 86_400_000;

/** An address whose bytes browsers keep, and the build that served others there. */
export interface Changed {
  readonly address: string;
  readonly build: number;
}

type Row = typeof lastingFiles.$inferInsert;

/** The files of an artifact that never change under their address. */
export function lastingOf(artifact: Digest, manifest: Manifest): readonly Row[] {
  const rules = rulesOfManifest(manifest);
  if (rules.immutable.length === 0) return [];
  const isLasting = makeImmutable(rules);
  return manifest.site.files
    .filter(({ path }) => isLasting(path))
    .map(({ path, digest: file }) => {
      const address = `${rules.base}${path}`;
      return { artifact, addressKey: sha256(address), address, file };
    });
}

/** Keeps what of an artifact never changes. */
export async function keepLasting(tx: Tx, artifact: Digest, manifest: Manifest): Promise<void> {
  const rows = lastingOf(artifact, manifest);
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

const before = alias(lastingFiles, 'before');

/**
 * The first address of an artifact that answered with other bytes, said to last, in an environment within the last 30
 * days; null when there is none. What was served when they began counts as well.
 */
export async function changedLasting(
  tx: Db | Tx,
  environmentId: string,
  artifact: Digest,
  now: number,
): Promise<Changed | null> {
  const [first] = await tx
    .select({ number: deploys.number })
    .from(deploys)
    .where(and(eq(deploys.environmentId, environmentId), lte(deploys.committedAt, now - heldMs)))
    .orderBy(desc(deploys.committedAt), desc(deploys.number))
    .limit(1);
  const [row] = await tx
    .select({ address: lastingFiles.address, build: builds.number })
    .from(lastingFiles)
    .innerJoin(
      before,
      and(eq(before.addressKey, lastingFiles.addressKey), ne(before.file, lastingFiles.file)),
    )
    .innerJoin(
      deploys,
      and(eq(deploys.artifact, before.artifact), eq(deploys.environmentId, environmentId)),
    )
    .innerJoin(builds, eq(builds.id, deploys.buildId))
    .where(and(eq(lastingFiles.artifact, artifact), gte(deploys.number, first?.number ?? 0)))
    .orderBy(desc(deploys.number), lastingFiles.address)
    .limit(1);
  return row ?? null;
}
