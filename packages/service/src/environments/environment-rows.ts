import type { roleRoutes } from '@vaquero/contracts';
import type { CommitId, EnvironmentNow, Instant } from '@vaquero/core';
import { and, asc, desc, eq, inArray, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import { Impossible } from '../base/refused.ts';
import { noId } from '../database/columns.ts';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import {
  builds,
  deploys,
  environments,
  holds,
  intakes,
  people,
  projects,
} from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

export type EnvironmentRow = typeof environments.$inferSelect;

export async function environmentsOf(
  db: Db | Tx,
  projectId: string,
): Promise<readonly EnvironmentRow[]> {
  return db
    .select()
    .from(environments)
    .where(and(eq(environments.projectId, projectId), eq(environments.living, true)))
    .orderBy(asc(environments.place), asc(environments.name));
}

export async function environmentByName(
  db: Db | Tx,
  projectId: string,
  name: string,
): Promise<EnvironmentRow | undefined> {
  const [row] = await livingByName(db).execute({ projectId, name });
  return row;
}

/** The environment of a name that lives, or that ended last: what it served can be read for ever. */
export async function environmentEver(
  db: Db | Tx,
  projectId: string,
  name: string,
): Promise<EnvironmentRow | undefined> {
  const living = await environmentByName(db, projectId, name);
  if (living !== undefined) return living;
  const [ended] = await db
    .select()
    .from(environments)
    .where(and(eq(environments.projectId, projectId), eq(environments.name, name)))
    .orderBy(desc(environments.endedAt))
    .limit(1);
  return ended;
}

const livingByName = madeOnce((db) =>
  db
    .select()
    .from(environments)
    .where(
      and(
        eq(environments.projectId, sql.placeholder('projectId')),
        eq(environments.name, sql.placeholder('name')),
        eq(environments.living, true),
      ),
    )
    .prepare(),
);

/** A project and an environment of it by their names, in one round trip; the environment is null where it has none of that name. */
export async function environmentOfProject(
  db: Db,
  names: { readonly project: string; readonly environment: string },
): Promise<{ project: ProjectRow; environment: EnvironmentRow | null } | undefined> {
  const [row] = await ofProject(db).execute(names);
  return row;
}

const ofProject = madeOnce((db) =>
  db
    .select({ project: projects, environment: environments })
    .from(projects)
    .leftJoin(
      environments,
      and(
        eq(environments.projectId, projects.id),
        eq(environments.name, sql.placeholder('environment')),
        eq(environments.living, true),
      ),
    )
    .where(eq(projects.name, sql.placeholder('project')))
    .prepare(),
);

/** Writes an environment that is no family's. */
export async function insertEnvironment(
  tx: Tx,
  row: Pick<EnvironmentRow, 'id' | 'projectId' | 'name' | 'rule' | 'place'>,
): Promise<void> {
  await tx.insert(environments).values(row);
}

/** Gives an environment another name, rule or lane: its history stays. */
export async function renameEnvironment(
  tx: Tx,
  { id }: EnvironmentRow,
  now: Pick<EnvironmentRow, 'name' | 'rule' | 'place'>,
): Promise<void> {
  await tx.update(environments).set(now).where(eq(environments.id, id));
}

/** Names of the living environments that took notice of a build. */
export async function environmentsWaitingFor(
  db: Db | Tx,
  buildId: string,
): Promise<readonly string[]> {
  const rows = await db
    .select({ name: environments.name })
    .from(intakes)
    .innerJoin(environments, eq(environments.id, intakes.environmentId))
    .where(and(eq(intakes.buildId, buildId), eq(environments.living, true)));
  return rows.map(({ name }) => name);
}

/** Locks environments in the order of their ids, so that two moves never wait for each other. */
export async function lockEnvironments(
  tx: Tx,
  ids: readonly string[],
): Promise<ReadonlyMap<string, EnvironmentRow>> {
  const locked = new Map<string, EnvironmentRow>();
  for (const id of [...ids].sort()) {
    const [row] = await forUpdate(tx).execute({ id });
    if (row === undefined) throw new Impossible(`no environment ${id}`);
    locked.set(id, row);
  }
  return locked;
}

const forUpdate = madeOnce((db) =>
  db
    .select()
    .from(environments)
    .where(eq(environments.id, sql.placeholder('id')))
    .for('update')
    .prepare(),
);

/** An environment as core decides with it; one round trip, since every move reads it. */
export async function environmentNow(db: Db | Tx, row: EnvironmentRow): Promise<EnvironmentNow> {
  const [found] = await nowOf(db).execute({ id: row.id, serves: row.servesDeployId ?? noId });
  if (found === undefined) throw new Impossible(`no environment ${row.id}`);
  const { serves, build, by, since, reason, holder } = found;
  return {
    name: row.name,
    generation: row.generation,
    serves:
      serves === null || build === null
        ? null
        : {
            deploy: serves.number,
            artifact: serves.artifact,
            build,
            intake: serves.intake,
            by: by ?? 'Vaquero',
            at: serves.committedAt as Instant,
          },
    hold:
      since === null || reason === null
        ? null
        : { by: holder ?? 'Vaquero', since: since as Instant, reason },
  };
}

const holders = alias(people, 'holders');
const nowOf = madeOnce((db) =>
  db
    .select({
      serves: deploys,
      build: builds.number,
      by: people.shownAs,
      since: holds.since,
      reason: holds.reason,
      holder: holders.shownAs,
    })
    .from(environments)
    .leftJoin(deploys, eq(deploys.id, sql.placeholder('serves')))
    .leftJoin(builds, eq(builds.id, deploys.buildId))
    .leftJoin(people, eq(people.id, deploys.actorId))
    .leftJoin(holds, and(eq(holds.environmentId, environments.id), eq(holds.standing, true)))
    .leftJoin(holders, eq(holders.id, holds.personId))
    .where(eq(environments.id, sql.placeholder('id')))
    .prepare(),
);

/** Moves a locked environment's pointer to its next deploy when its transaction commits. Returns the deploy's number. */
export function movePointerOnCommit(
  tx: Tx,
  row: EnvironmentRow,
  deploy: { readonly id: string; readonly actedAt: Instant | null },
): number {
  const number = row.lastDeploy + 1;
  onCommit(
    tx,
    tx
      .update(environments)
      .set({
        servesDeployId: deploy.id,
        lastDeploy: number,
        generation: row.generation + 1,
        actedAt: deploy.actedAt ?? row.actedAt,
      })
      .where(eq(environments.id, row.id)),
  );
  return number;
}

/** Notes the link that is lent for an environment, or that none is. */
export async function setLink(
  tx: Tx,
  id: string,
  link: Pick<EnvironmentRow, 'linkHash' | 'linkBy' | 'linkAt' | 'actedAt'>,
): Promise<void> {
  await tx.update(environments).set(link).where(eq(environments.id, id));
}

export async function raiseGeneration(tx: Tx, row: EnvironmentRow): Promise<void> {
  await tx
    .update(environments)
    .set({ generation: row.generation + 1 })
    .where(eq(environments.id, row.id));
}

/** Environments by project and name, with one space between them. */
export async function environmentIds(
  tx: Tx,
  rows: roleRoutes.FiguresBatch['rows'],
): Promise<ReadonlyMap<string, string>> {
  const names = [...new Set(rows.map(({ project }) => project))];
  if (names.length === 0) return new Map();
  const found = await tx
    .select({ id: environments.id, name: environments.name, project: projects.name })
    .from(environments)
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .where(and(inArray(projects.name, names), eq(environments.living, true)));
  return new Map(found.map(({ id, name, project }) => [`${project} ${name}`, id]));
}

/** Living environments of a project by their names, locked in the order of their ids. */
export function lockNamed(tx: Tx, projectId: string, names: readonly string[]) {
  return tx
    .select({ id: environments.id, intake: environments.intake })
    .from(environments)
    .where(
      and(
        eq(environments.projectId, projectId),
        inArray(environments.name, [...names]),
        eq(environments.living, true),
      ),
    )
    .orderBy(asc(environments.id))
    .for('update');
}

/** Notes the newest number under which an environment took notice of a build, and its commit. */
export async function noteIntake(
  tx: Tx,
  id: string,
  set: { readonly intake: number; readonly head: CommitId; readonly touchedAt: number },
): Promise<void> {
  await tx.update(environments).set(set).where(eq(environments.id, id));
}

/** Writes down the environments that a map names, each by its own rule. */
export async function insertNamed(
  tx: Tx,
  projectId: string,
  named: readonly { readonly id: string; readonly name: string; readonly place: number }[],
): Promise<void> {
  if (named.length === 0) return;
  await tx.insert(environments).values(named.map((one) => ({ ...one, rule: one.name, projectId })));
}
