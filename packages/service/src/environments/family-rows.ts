import {
  type CommitId,
  type Ended,
  type EndedBecause,
  type Family,
  familyName,
  type Instant,
  type Lasting,
  type Living,
  later,
  makesRoom,
  type RefName,
  readCommitId,
} from '@vaquero/core';
import { and, asc, desc, eq, inArray, isNotNull, isNull, lt, or, sql } from 'drizzle-orm';
import type { Doing } from '../audit/doing.ts';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { sha256 } from '../base/sha256.ts';
import type { Db, Tx } from '../database/pool.ts';
import { environments } from '../database/tables.ts';
import { overtakeOpen } from '../intakes/intake-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import type { EnvironmentRow } from './environment-rows.ts';

/** So many refs are asked for at once. */
const mostAtOnce = 500;

/** Environments of a project's families that live. */
export async function livingOf(db: Db | Tx, projectId: string): Promise<readonly Living[]> {
  const rows = await db
    .select()
    .from(environments)
    .where(
      and(
        eq(environments.projectId, projectId),
        eq(environments.living, true),
        isNotNull(environments.ref),
      ),
    );
  return rows.map(livingFrom);
}

function livingFrom(row: EnvironmentRow): Living {
  const { name, rule, ref, head } = row;
  return { name, rule, ref: ref as RefName, head: readHead(head), ...lastingOf(row) };
}

/** What decides how long one of a family lives on. Pushes, people's acts and visits all count. */
export function lastingOf({
  touchedAt,
  actedAt,
  visitedAt,
  closedAt,
  keptUntil,
}: EnvironmentRow): Lasting {
  return {
    touchedAt: Math.max(touchedAt ?? 0, actedAt ?? 0, visitedAt ?? 0) as Instant,
    closedAt: closedAt as Instant | null,
    keptUntil: keptUntil as Instant | null,
  };
}

/** Writes how long somebody keeps one of a family; null lets it end as the map says. */
export async function setKept(
  tx: Tx,
  id: string,
  kept: { readonly until: Instant; readonly by: string; readonly why: string } | null,
  at: Instant,
): Promise<void> {
  await tx
    .update(environments)
    .set({
      keptUntil: kept?.until ?? null,
      keptBy: kept?.by ?? null,
      keptWhy: kept?.why ?? null,
      actedAt: at,
    })
    .where(eq(environments.id, id));
}

/** A visit is written down no more often: the rows of environments are what moves wait for. */
const visitEveryMs = 600_000;

/** Notes that visitors came to environments of families. */
export async function noteVisits(tx: Tx, ids: readonly string[], at: Instant): Promise<void> {
  if (ids.length === 0) return;
  await tx
    .update(environments)
    .set({ visitedAt: at })
    .where(
      and(
        inArray(environments.id, [...ids]),
        isNotNull(environments.ref),
        or(isNull(environments.visitedAt), lt(environments.visitedAt, later(at, -visitEveryMs))),
      ),
    );
}

/** Those that lived for some refs, the oldest end first: of several for one ref the last counts. */
export async function endedOf(
  db: Db | Tx,
  projectId: string,
  refs: readonly RefName[],
): Promise<readonly Ended[]> {
  const rows: EnvironmentRow[] = [];
  for (let from = 0; from < refs.length; from += mostAtOnce)
    rows.push(
      ...(await db
        .select()
        .from(environments)
        .where(
          and(
            eq(environments.projectId, projectId),
            inArray(environments.ref, refs.slice(from, from + mostAtOnce)),
            isNull(environments.living),
          ),
        )
        .orderBy(asc(environments.endedAt))),
    );
  return rows.map(({ rule, ref, endedBecause, head }) => ({
    rule,
    ref: ref as RefName,
    because: endedBecause ?? 'asked',
    commit: readHead(head),
  }));
}

function readHead(head: string | null): CommitId | null {
  return head === null ? null : (readCommitId(head) ?? null);
}

/** What a family's environment is for. */
export interface Wanted {
  readonly project: ProjectRow;
  readonly rule: Family;
  readonly place: number;
  readonly ref: RefName;
  readonly doing: Doing;
}

/**
 * The environment of a family for a ref: the one that lives, or the one that lived and comes back with its history, or a
 * new one; where the family is full the longest untouched makes room. The project is locked already. Returns its name.
 */
export async function ensureOfFamily(deps: Deps, tx: Tx, wanted: Wanted): Promise<string> {
  const { project, rule, ref } = wanted;
  const own = await tx
    .select()
    .from(environments)
    .where(
      and(
        eq(environments.projectId, project.id),
        eq(environments.rule, rule.name),
        eq(environments.ref, ref),
      ),
    )
    .orderBy(desc(environments.endedAt))
    .for('update');
  const lives = own.find(({ living }) => living === true);
  if (lives !== undefined) {
    if (lives.closedAt !== null)
      await tx.update(environments).set({ closedAt: null }).where(eq(environments.id, lives.id));
    return lives.name;
  }
  const all = await tx
    .select()
    .from(environments)
    .where(and(eq(environments.projectId, project.id), eq(environments.living, true)));
  const family = all.filter((row) => row.ref !== null).map(livingFrom);
  for (const { name } of makesRoom(rule, family, deps.clock())) {
    const row = all.find((one) => one.name === name);
    if (row !== undefined) await endEnvironment(deps, tx, project, row, 'crowded', wanted.doing);
  }
  const taken = new Set(all.map(({ name }) => name));
  const [before] = own;
  return before !== undefined && !taken.has(before.name)
    ? revive(deps, tx, wanted, before)
    : begin(deps, tx, wanted, taken);
}

async function revive(
  deps: Deps,
  tx: Tx,
  { project, rule, place, ref, doing }: Wanted,
  { id, name }: EnvironmentRow,
): Promise<string> {
  const at = deps.clock();
  await tx
    .update(environments)
    .set({
      living: true,
      place,
      closedAt: null,
      endedAt: null,
      endedBecause: null,
      endedBy: null,
      endedDeployId: null,
      startedAt: at,
      touchedAt: at,
    })
    .where(eq(environments.id, id));
  decide(tx, {
    at,
    kind: 'environment.revived',
    project,
    doing,
    facts: { environment: name, rule: rule.name, ref },
  });
  return name;
}

async function begin(
  deps: Deps,
  tx: Tx,
  { project, rule, place, ref, doing }: Wanted,
  taken: ReadonlySet<string>,
): Promise<string> {
  const at = deps.clock();
  const name = familyName(ref, (one) => taken.has(one), sha256);
  await tx.insert(environments).values({
    id: deps.newId(),
    projectId: project.id,
    name,
    rule: rule.name,
    place,
    ref,
    startedAt: at,
    touchedAt: at,
  });
  decide(tx, {
    at,
    kind: 'environment.made',
    project,
    doing,
    facts: { environment: name, rule: rule.name, ref },
  });
  return name;
}

/** Ends an environment that is locked, or whose project is: it serves nothing more; its history and artifacts stay. */
export async function endEnvironment(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  row: EnvironmentRow,
  because: EndedBecause,
  doing: Doing,
): Promise<void> {
  const at = deps.clock();
  await tx
    .update(environments)
    .set({
      living: null,
      endedAt: at,
      endedBecause: because,
      endedBy: doing.actor.kind === 'person' ? doing.actor.id : null,
      endedDeployId: row.servesDeployId,
      servesDeployId: null,
      linkHash: null,
      keptUntil: null,
      generation: sql`${environments.generation} + 1`,
    })
    .where(eq(environments.id, row.id));
  await overtakeOpen(tx, row.id);
  decide(tx, {
    at,
    kind: 'environment.ended',
    project,
    doing,
    facts: { environment: row.name, rule: row.rule, because },
  });
}

/** Notes that the refs of environments have gone, or are there again. */
export async function closeFamilies(
  tx: Tx,
  projectId: string,
  names: readonly string[],
  at: Instant | null,
): Promise<void> {
  if (names.length === 0) return;
  await tx
    .update(environments)
    .set({ closedAt: at })
    .where(
      and(
        eq(environments.projectId, projectId),
        inArray(environments.name, [...names]),
        eq(environments.living, true),
      ),
    );
}

/** Notes that a ref has gone: what its families have for it ends after their time. */
export async function closeAt(
  tx: Tx,
  { id }: ProjectRow,
  ref: RefName,
  at: Instant,
): Promise<void> {
  await tx
    .update(environments)
    .set({ closedAt: at })
    .where(
      and(
        eq(environments.projectId, id),
        eq(environments.ref, ref),
        eq(environments.living, true),
        isNull(environments.closedAt),
      ),
    );
}
