import type { ArtifactAddress, Digest } from '@vaquero/core';
import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { artifacts, builds, projects } from '../database/tables.ts';
import { projectByName } from '../projects/project-rows.ts';

/** The same bytes of more builds than are looked at are for members: one of the others may be. */
export const mostLookedAt = 2_000;

/** An artifact by its bytes, and the one build that is meant of those that made it, if one is. */
interface Wanted {
  readonly digest: Digest;
  readonly build: { readonly projectId: string; readonly number: number } | null;
}

/** The artifact that an address names; undefined where none is. */
export async function artifactOf(db: Db, address: ArtifactAddress): Promise<Wanted | undefined> {
  if (address.by === 'digest') return { digest: address.digest, build: null };
  const project = await projectByName(db, address.project);
  if (project === undefined) return undefined;
  const [row] = await db
    .select({ artifact: builds.artifact })
    .from(builds)
    .where(and(eq(builds.projectId, project.id), eq(builds.number, address.build)));
  return row?.artifact == null
    ? undefined
    : {
        digest: row.artifact,
        build: { projectId: project.id, number: address.build },
      };
}

/** Builds that made a kept artifact, of any project, the first ones first. */
export async function buildsThatMade(db: Db, { digest, build }: Wanted) {
  const kept = await db
    .select({ projectId: artifacts.projectId })
    .from(artifacts)
    .where(and(eq(artifacts.digest, digest), isNull(artifacts.goneAt)));
  if (kept.length === 0) return [];
  const made = and(
    inArray(
      builds.projectId,
      kept.map(({ projectId }) => projectId),
    ),
    eq(builds.artifact, digest),
  );
  const meant =
    build === null
      ? made
      : and(made, eq(builds.projectId, build.projectId), eq(builds.number, build.number));
  return db
    .select({
      project: projects.name,
      build: builds.number,
      commit: builds.commitId,
      trust: builds.trust,
      aim: builds.aim,
      map: { id: projects.id, mapVersion: projects.mapVersion, branch: projects.branch },
    })
    .from(builds)
    .innerJoin(projects, eq(projects.id, builds.projectId))
    .where(meant)
    .orderBy(asc(builds.projectId), asc(builds.number))
    .limit(mostLookedAt);
}
