import type { RoutingTable } from '@vaquero/contracts';
import { type Admits, admitsOf, type DeliveryMap, type Digest, strictest } from '@vaquero/core';
import { and, eq, isNull, type SQL } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { type Aim, artifacts, builds, projects } from '../database/tables.ts';
import { mapOf } from '../map/map-rows.ts';

/** Each kept artifact under every build that made it; the one just stored belongs to a build that has not passed yet. */
export async function namedArtifacts(db: Db): Promise<RoutingTable['artifacts']> {
  const [made, first] = await Promise.all([
    selectNamed(db, eq(builds.artifact, artifacts.digest)),
    selectNamed(db, eq(builds.id, artifacts.buildId)),
  ]);
  // Each found by its own key; a build that made what it stored stands in both.
  const rows = new Map([...made, ...first].map((row) => [`${row.id} ${row.artifact}`, row]));
  return Promise.all(
    [...rows.values()]
      .sort((a, b) => (a.id < b.id ? -1 : 1))
      .map(async ({ id: _, aim, map, ...row }) => ({
        ...row,
        artifact: row.artifact as Digest,
        admits: closedAs(await mapOf(db, map), aim),
      })),
  );
}

/** An artifact's own addresses are as closed as the most closed environment that wanted its build; what none wanted is for members. */
function closedAs(map: DeliveryMap, aim: Aim | null): Admits {
  return strictest((aim?.rules ?? []).map((rule) => admitsOf(map, rule)));
}

function selectNamed(db: Db, made: SQL) {
  return db
    .select({
      id: builds.id,
      artifact: artifacts.digest,
      project: projects.name,
      build: builds.number,
      commit: builds.commitId,
      aim: builds.aim,
      map: { id: projects.id, mapVersion: projects.mapVersion, branch: projects.branch },
    })
    .from(artifacts)
    .innerJoin(projects, eq(projects.id, artifacts.projectId))
    .innerJoin(builds, and(eq(builds.projectId, artifacts.projectId), made))
    .where(isNull(artifacts.goneAt));
}
