import type { Digest, FileFacts } from '@vaquero/core';
import { and, eq, inArray } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { artifacts, deploys, environments, fileFindings, inspections } from '../database/tables.ts';
import { type FileKind, factsKey } from './file-facts.ts';

/** What was read of files before, by their digests and what they were read as. */
export async function factsKnown(db: Db, files: readonly Digest[], rules: readonly number[]) {
  const known: (typeof fileFindings.$inferSelect)[] = [];
  for (let from = 0; from < files.length; from += 2000)
    known.push(
      ...(await db
        .select()
        .from(fileFindings)
        .where(
          and(
            inArray(fileFindings.file, files.slice(from, from + 2000)),
            inArray(fileFindings.rules, [...rules]),
          ),
        )),
    );
  return known;
}

/** Keeps what was read of files, by their digests: the next artifact has most of them. */
export async function keepFacts(
  db: Db,
  learned: readonly {
    readonly file: { readonly digest: Digest; readonly kind: FileKind };
    readonly facts: FileFacts;
  }[],
): Promise<void> {
  for (let from = 0; from < learned.length; from += 200) {
    await db
      .insert(fileFindings)
      .ignore()
      .values(
        learned.slice(from, from + 200).map(({ file, facts }) => ({
          file: file.digest,
          rules: factsKey(file.kind),
          facts,
        })),
      );
  }
}

/** How large what one of some environments serves is; null where nothing is live. */
export async function liveSize(
  db: Db,
  projectId: string,
  names: readonly string[],
): Promise<{ readonly files: number; readonly bytes: number } | null> {
  if (names.length === 0) return null;
  const [row] = await db
    .select({ files: artifacts.files, bytes: artifacts.bytes })
    .from(environments)
    .innerJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .innerJoin(
      artifacts,
      and(eq(artifacts.projectId, environments.projectId), eq(artifacts.digest, deploys.artifact)),
    )
    .where(
      and(
        eq(environments.projectId, projectId),
        eq(environments.living, true),
        inArray(environments.name, [...names]),
      ),
    );
  return row ?? null;
}

/** Keeps what an inspection found; of the same bytes the newest one stands. */
export async function keepInspection(
  db: Db,
  projectId: string,
  artifact: Digest,
  row: Pick<typeof inspections.$inferInsert, 'findings' | 'leaks' | 'at' | 'tookMs'>,
): Promise<void> {
  await db
    .insert(inspections)
    .values({ projectId, artifact, ...row })
    .onDuplicateKeyUpdate({ set: row });
}

/** What an inspection found in an artifact; undefined before it ended. */
export async function inspectionFound(db: Db, projectId: string, artifact: Digest) {
  const [row] = await db
    .select()
    .from(inspections)
    .where(and(eq(inspections.projectId, projectId), eq(inspections.artifact, artifact)));
  return row;
}
