import type { RoutingTable } from '@vaquero/contracts';
import { and, asc, eq, inArray, or, type SQL } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { Db } from '../database/pool.ts';
import { builds, deploys, environments, projects } from '../database/tables.ts';
import { projectsNamed } from '../projects/project-rows.ts';
import type { endedHosts } from './ended-host-rows.ts';
import type { movedHosts } from './moved-hosts.ts';
import type { Touched } from './table-touched.ts';

/** What of a table is no host's own. */
export async function restOf(
  deps: Deps,
  revision: number,
  elsewhere: Awaited<ReturnType<typeof movedHosts>>,
  ended: Awaited<ReturnType<typeof endedHosts>>,
): Promise<Omit<RoutingTable, 'hosts' | 'ended'>> {
  const endOf = new Map(ended.map(([host, { at }]) => [host, at]));
  // Whoever had a name last is who it stands for, also after their end. Edges ask first who has it now.
  const hosts = elsewhere.hosts.filter(([host, , since]) => (endOf.get(host) ?? 0) < since);
  const former = Object.entries(elsewhere.projects);
  const taken = await projectsNamed(
    deps.db,
    former.map(([name]) => name),
  );
  return {
    revision,
    artifactsBase: deps.config.artifactsBase,
    admission: { console: deps.config.origin, key: deps.keys.passPem },
    moved: {
      hosts: Object.fromEntries(hosts.map(([host, to]) => [host, to])),
      projects: Object.fromEntries(former.filter(([name]) => !taken.includes(name))),
    },
  };
}

/** Environments with what they serve: those that live, or those that a condition names, whether they live or not. */
export function environmentRows(db: Db, which: SQL | undefined = eq(environments.living, true)) {
  return db
    .select({
      id: environments.id,
      project: projects.name,
      map: { id: projects.id, mapVersion: projects.mapVersion, branch: projects.branch },
      rule: environments.rule,
      ref: environments.ref,
      place: environments.place,
      living: environments.living,
      link: environments.linkHash,
      environment: environments.name,
      artifact: deploys.artifact,
      deploy: deploys.number,
      commit: deploys.commitId,
      build: builds.number,
    })
    .from(environments)
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .leftJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .leftJoin(builds, eq(builds.id, deploys.buildId))
    .where(which)
    .orderBy(asc(environments.id));
}

/** The environments that decisions touched. */
export async function touchedRows(
  db: Db,
  { projectIds, environments: named }: Touched,
): Promise<Awaited<ReturnType<typeof environmentRows>>> {
  const ofProjects = projectIds.length === 0 ? [] : [inArray(environments.projectId, projectIds)];
  const touched = [
    ...ofProjects,
    ...named.map(({ projectId, name }) =>
      and(eq(environments.projectId, projectId), eq(environments.name, name)),
    ),
  ];
  return touched.length === 0 ? [] : environmentRows(db, or(...touched));
}
