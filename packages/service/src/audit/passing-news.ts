import type { PartOfProject } from '@vaquero/core';
import { asc, count, eq, isNotNull, sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { Db } from '../database/pool.ts';
import { attemptSteps, attempts, builds, projects, repositories } from '../database/tables.ts';
import { startLoop } from '../loop.ts';
import { freshEdges } from '../releases/edge-rows.ts';

/** Something looks different that nobody decided; `project` null concerns all of them. */
export interface News {
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly what: PartOfProject;
  readonly build?: number;
}

/**
 * Tells what changes without a decision: how far the steps of running builds are, which edges run, which repositories
 * cannot be read. It has no place in the log and cannot be asked for later. While somebody listens, the rows are
 * compared once a second, whichever process wrote them, and at once when this one took a report.
 */
export interface PassingNews {
  readonly listen: (listener: (news: News) => void) => () => void;
  readonly noteReport: () => void;
  readonly stop: () => Promise<void>;
}

const lookEveryMs = 1000;

/** Begins to compare. */
export function makePassingNews(db: Db, log: Logger): PassingNews {
  const listeners = new Set<(news: News) => void>();
  let known: ReadonlyMap<string, Standing> | null = null;
  let comparing: Promise<void> = Promise.resolve();

  const compare = async (): Promise<void> => {
    if (listeners.size === 0) {
      known = null;
      return;
    }
    const before = known;
    const now = new Map((await standings(db)).map((one) => [one.of, one]));
    known = now;
    if (before === null) return;
    for (const one of now.values())
      if (before.get(one.of)?.stands !== one.stands)
        for (const listener of [...listeners]) listener(one.news);
  };
  let asked = false;
  const inTurn = (): Promise<void> => {
    const next = comparing.then(() => {
      asked = false;
      return compare();
    });
    comparing = next.catch(() => undefined); // The loop says so; the next one must not wait on it.
    return next;
  };
  return {
    listen: (listener) => {
      listeners.add(listener);
      return () => void listeners.delete(listener);
    },
    noteReport: () => {
      // One that waits for its turn sees this report, too.
      if (!asked) inTurn().catch(() => undefined); // The loop's next turn makes up for it.
      asked = true;
    },
    stop: startLoop(log, 'passing news', lookEveryMs, inTurn),
  };
}

/** How something stands, as a text that is another one once it stands otherwise. */
interface Standing {
  readonly of: string;
  readonly stands: string;
  readonly news: News;
}

async function standings(db: Db): Promise<readonly Standing[]> {
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
      return { of: attempt, stands: `${begun} ${ended} ${tries}`, news };
    }),
    {
      of: 'edges',
      stands: edges.map((edge) => edge.name).join(),
      news: { project: null, what: 'environment' },
    },
    {
      of: 'repositories',
      stands: JSON.stringify(troubles),
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
