import { brandedBy, type Digest, readFind } from '@vaquero/core';
import { and, eq, inArray, or, type SQL, sql } from 'drizzle-orm';
import { beginsWith } from '../database/columns.ts';
import type { Db } from '../database/pool.ts';
import { artifacts, builds, deploys, environments } from '../database/tables.ts';
import { type ListedBuild, listWhere } from './listed-build-rows.ts';

/** A build that was found, with the environments that serve its artifact now. */
export interface FoundBuild extends ListedBuild {
  readonly servedBy: readonly string[];
}

const mostFound = 20;

/** Finds builds of a project by what a person knows of them, newest first. */
export async function findBuilds(
  db: Db,
  projectId: string,
  text: string,
): Promise<readonly FoundBuild[]> {
  const find = readFind(text);
  if (find === null) return [];
  const [branded, serving] = await Promise.all([
    artifactsBranded(db, projectId, find.words),
    servingNow(db, projectId),
  ]);
  const ways: readonly (SQL | undefined)[] = [
    and(...find.words.map((word) => says(word))),
    ...(find.number === null ? [] : [eq(builds.number, find.number)]),
    ...(find.hex === null
      ? []
      : [beginsWith(builds.commitId, find.hex), beginsWith(builds.artifact, find.hex)]),
    ...(branded.length === 0 ? [] : [inArray(builds.artifact, [...branded])]),
  ];
  const found = await listWhere(db, and(eq(builds.projectId, projectId), or(...ways)), mostFound);
  return found.map((build) => ({
    ...build,
    servedBy: serving.flatMap(({ name, artifact }) => (artifact === build.artifact ? [name] : [])),
  }));
}

/** Whether a word stands in a subject or an author, whatever its case; what a pattern would mean, it means literally. */
function says(word: string): SQL | undefined {
  const pattern = `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  return or(
    sql`lower(${builds.subject}) like ${pattern}`,
    sql`lower(${builds.author}) like ${pattern}`,
  );
}

async function artifactsBranded(
  db: Db,
  projectId: string,
  words: readonly string[],
): Promise<readonly Digest[]> {
  const rows = await db
    .select({ digest: artifacts.digest })
    .from(artifacts)
    .where(eq(artifacts.projectId, projectId));
  return brandedBy(
    words,
    rows.map((row) => row.digest),
  );
}

async function servingNow(
  db: Db,
  projectId: string,
): Promise<readonly { readonly name: string; readonly artifact: string }[]> {
  return db
    .select({ name: environments.name, artifact: deploys.artifact })
    .from(environments)
    .innerJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .where(and(eq(environments.projectId, projectId), eq(environments.living, true)));
}
