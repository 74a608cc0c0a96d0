import type { BuildReply } from '@vaquero/contracts';
import {
  type Digest,
  type FileFacts,
  type Finding,
  type Instant,
  type SiteFile,
  worstFirst,
} from '@vaquero/core';
import { and, eq, inArray } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import type { Db } from '../database/pool.ts';
import {
  artifacts,
  deploys,
  environments,
  fileFindings,
  inspections,
  variables,
} from '../database/tables.ts';
import { environmentsWaitingFor } from '../environments/environment-rows.ts';
import { aimOfBuild } from '../map/aim.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { placeOf } from '../variables/given-values.ts';
import { openValue } from '../variables/seal.ts';
import { type FileKind, factsKey, fileKinds } from './file-facts.ts';

const shortestSecret = 6;

interface KindedFile extends SiteFile {
  readonly kind: FileKind;
}

/** Which files nobody has read yet. What the database knows of the others is in memory then. */
export async function unknownAmong(
  deps: Deps,
  files: readonly KindedFile[],
): Promise<readonly boolean[]> {
  const { known } = deps.reading;
  const isUnknown = (file: KindedFile): boolean => known.get(file.kind, file.digest) === undefined;
  const digests = [...new Set(files.filter(isUnknown).map((file) => file.digest))];
  const kinds = new Map(fileKinds.map((kind) => [factsKey(kind), kind]));
  for (let from = 0; from < digests.length; from += 2000) {
    const rows = await deps.db
      .select()
      .from(fileFindings)
      .where(
        and(
          inArray(fileFindings.file, digests.slice(from, from + 2000)),
          inArray(fileFindings.rules, [...kinds.keys()]),
        ),
      );
    for (const row of rows) {
      const kind = kinds.get(row.rules);
      // Written by keepFacts alone, as facts.
      if (kind !== undefined) known.set(kind, row.file, row.facts as FileFacts);
    }
  }
  return files.map(isUnknown);
}

/** Keeps what was read of files, by their digests: the next artifact has most of them. */
export async function keepFacts(
  deps: Deps,
  learned: readonly { readonly file: KindedFile; readonly facts: FileFacts }[],
): Promise<void> {
  for (let from = 0; from < learned.length; from += 200) {
    await deps.db
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

/** The secrets of a project that no file may hold, by their names; too short ones are no proof of anything. */
export async function secretValues(
  deps: Deps,
  projectId: string,
): Promise<readonly { readonly name: string; readonly value: string }[]> {
  const rows = await deps.db
    .select()
    .from(variables)
    .where(and(eq(variables.projectId, projectId), eq(variables.kind, 'secret')));
  return rows
    .map((row) => ({
      name: row.name,
      value: openValue(deps.keys.sealing, placeOf(row), row.sealed),
    }))
    .filter((one) => one.value.length >= shortestSecret);
}

/** Environments that a build's artifact would go to by itself. */
export async function destinationsOf(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
): Promise<readonly string[]> {
  const [{ rules }, waiting] = await Promise.all([
    aimOfBuild(deps.db, project, build),
    environmentsWaitingFor(deps.db, build.id),
  ]);
  return [...new Set([...rules, ...waiting])];
}

/** How large what a build would replace is; null where nothing is live. */
export async function liveSize(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
): Promise<{ readonly files: number; readonly bytes: number } | null> {
  const names = await destinationsOf(deps, project, build);
  if (names.length === 0) return null;
  const [row] = await deps.db
    .select({ files: artifacts.files, bytes: artifacts.bytes })
    .from(environments)
    .innerJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .innerJoin(
      artifacts,
      and(eq(artifacts.projectId, environments.projectId), eq(artifacts.digest, deploys.artifact)),
    )
    .where(
      and(
        eq(environments.projectId, project.id),
        eq(environments.living, true),
        inArray(environments.name, [...names]),
      ),
    );
  return row ?? null;
}

export type Evidence = BuildReply['evidence'];

/** What an inspection found in an artifact; null before it ended. */
export async function inspectionOf(
  deps: Deps,
  build: BuildRecord,
): Promise<Evidence['inspection']> {
  const stopped = build.failure?.reason === 'inspection' ? build.failure : null;
  const artifact = stopped?.artifact ?? build.artifact;
  // A build of before what was inspected was named keeps what stopped it, and no more.
  if (stopped !== null && artifact === null)
    return {
      artifact: null,
      findings: [...stopped.findings],
      at: (build.endedAt ?? build.queuedAt) as Instant,
      tookMs: 0,
    };
  if (artifact === null) return null;
  const [row] = await deps.db
    .select()
    .from(inspections)
    .where(and(eq(inspections.projectId, build.projectId), eq(inspections.artifact, artifact)));
  if (row === undefined) return null;
  // Written by the inspection alone, as findings.
  const findings = worstFirst(row.findings as readonly Finding[]);
  return {
    // Nothing may name what was stopped: it answers nowhere.
    artifact: stopped === null ? row.artifact : null,
    findings: [...findings],
    at: row.at as Instant,
    tookMs: row.tookMs,
  };
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
