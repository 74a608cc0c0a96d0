import type { roleRoutes } from '@vaquero/contracts';
import {
  type Admits,
  type ArtifactAddress,
  admitsOf,
  type DeliveryMap,
  type Digest,
  readArtifactHost,
  strictest,
} from '@vaquero/core';
import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { Db } from '../database/pool.ts';
import { type Aim, artifacts, builds, projects } from '../database/tables.ts';
import { mapOf } from '../map/map-rows.ts';
import { projectByName } from '../projects/project-rows.ts';

type NamedArtifact = roleRoutes.NamedArtifact;

/** So many builds are told of one artifact; it is as closed as the most closed of all of them. */
const mostTold = 20;
/** The same bytes of more builds than are looked at are for members: one of the others may be. */
const mostLookedAt = 2_000;

/** What the own address of an artifact stands for; null when nothing has it, or nothing any more. */
export async function artifactAt(deps: Deps, host: string): Promise<NamedArtifact | null> {
  const address = readArtifactHost(host, deps.config.artifactsBase);
  if (address === undefined) return null;
  const of = await artifactOf(deps.db, address);
  if (of === undefined) return null;
  const rows = await buildsThatMade(deps.db, of);
  const made = await Promise.all(
    rows.map(async ({ map, aim, trust, ...row }) => ({
      ...row,
      outsider: trust === 'outsider',
      admits: closedAs(await mapOf(deps.db, map), aim),
    })),
  );
  if (made.length === 0) return null;
  const isMore = made.length === mostLookedAt;
  const admits = strictest([...made.map((one) => one.admits), ...(isMore ? closed : [])]);
  return { artifact: of.digest, admits, builds: made.slice(0, mostTold) };
}

const closed: readonly Admits[] = ['members'];

/** An artifact's own addresses are as closed as the most closed environment that wanted its build; what none wanted is for members. */
function closedAs(map: DeliveryMap, aim: Aim | null): Admits {
  return strictest((aim?.rules ?? []).map((rule) => admitsOf(map, rule)));
}

/** An artifact by its bytes, and the one build that is meant of those that made it, if one is. */
interface Wanted {
  readonly digest: Digest;
  readonly build: { readonly projectId: string; readonly number: number } | null;
}

async function artifactOf(db: Db, address: ArtifactAddress): Promise<Wanted | undefined> {
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
async function buildsThatMade(db: Db, { digest, build }: Wanted) {
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
