import type { PartOfProject } from '@vaquero/core';
import { asc, count, eq, isNotNull, sql } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { attemptSteps, attempts, builds, projects, repositories } from '../database/tables.ts';
import { freshEdges } from '../machines/edge-rows.ts';

/** Something looks different that nobody decided; `project` null concerns all of them. */
export interface News {
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly what: PartOfProject;
  readonly build?: number;
}

/** How something stands, as a text that is another one once it stands otherwise. */
export interface Standing {
  readonly of: string;
  readonly stands: string;
  /** It stands otherwise than it mostly does, and may stay so: whoever comes is told. */
  readonly isNotable: boolean;
  readonly news: News;
}

/** How everything stands that changes without a decision. */
export async function standings(db: Db): Promise<readonly Standing[]> {
  const [running, edges, troubles] = await Promise.all([
    runningNow(db),
    freshEdges(db),
    db
      .select({ id: repositories.id, trouble: repositories.trouble })
      .from(repositories)
      .where(isNotNull(repositories.trouble))
      .orderBy(asc(repositories.id)),
  ]);
  return [
    ...running.map(({ attempt, id, name, build, begun, ended, tries }): Standing => {
      const news = { project: { id, name }, what: 'build', build } as const;
      return { of: attempt, stands: `${begun} ${ended} ${tries}`, isNotable: false, news };
    }),
    {
      of: 'edges',
      stands: edges.map((edge) => edge.name).join(),
      isNotable: edges.length === 0,
      news: { project: null, what: 'environment' },
    },
    {
      of: 'repositories',
      stands: JSON.stringify(troubles),
      isNotable: troubles.length > 0,
      news: { project: null, what: 'repository' },
    },
  ];
}

/** Running attempts, each with how many of its steps have begun and ended. */
function runningNow(db: Db) {
  return db
    .select({
      attempt: attempts.id,
      id: projects.id,
      name: projects.name,
      build: builds.number,
      begun: count(attemptSteps.startedAt),
      ended: count(attemptSteps.endedAt),
      tries: sql<number | null>`sum(${attemptSteps.tries})`,
    })
    .from(attempts)
    .innerJoin(builds, eq(builds.id, attempts.buildId))
    .innerJoin(projects, eq(projects.id, builds.projectId))
    .leftJoin(attemptSteps, eq(attemptSteps.attemptId, attempts.id))
    .where(eq(attempts.state, 'running'))
    .groupBy(attempts.id, projects.id, projects.name, builds.number);
}
