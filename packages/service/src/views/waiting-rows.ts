import type { EnvironmentSeen } from '@vaquero/contracts';
import {
  type Digest,
  type EnvironmentRule,
  type Instant,
  nameOfRef,
  refsInWords,
  usualTime,
} from '@vaquero/core';
import { and, desc, eq, inArray } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { usualTimes } from '../builds/build-rows.ts';
import { builds, intakes } from '../database/tables.ts';
import type { EnvironmentRow } from '../environments/environment-rows.ts';
import type { DeployView } from '../environments/ledger-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { commitsBetween, directoryOf } from '../repositories/bare-repository.ts';

export type Waits = EnvironmentSeen['waits'];

/** An environment as its waiting is told. */
export interface Waiting {
  readonly project: ProjectRow;
  readonly rule: EnvironmentRule | undefined;
  readonly row: EnvironmentRow;
  /** Every environment of the project. */
  readonly rows: readonly EnvironmentRow[];
  /** The environment that it accepts from. */
  readonly from: string | null;
}

/** How many commits one is ahead of another; null where nothing is served there. */
export async function commitsAhead(
  deps: Deps,
  project: ProjectRow,
  here: DeployView | null,
  commit: string,
): Promise<number | null> {
  if (here === null) return null;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  return commitsBetween(directory, here.commitId, commit);
}

/** The build that waits where an environment takes notice of commits; null where none does. */
export async function intakeThatWaits(
  deps: Deps,
  { project, row, rule }: Waiting,
  here: DeployView | null,
): Promise<Waits | null> {
  const open = await deps.db
    .select({
      number: builds.number,
      subject: builds.subject,
      state: builds.state,
      commitId: builds.commitId,
      artifact: builds.artifact,
      startedAt: builds.startedAt,
      endedAt: builds.endedAt,
      intake: intakes.state,
    })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(
      and(
        eq(intakes.environmentId, row.id),
        inArray(intakes.state, ['waiting', 'offered', 'held']),
      ),
    )
    .orderBy(desc(intakes.intake))
    .limit(mostLookedAt);
  const offered = open.find(({ intake }) => intake === 'offered');
  if (offered !== undefined)
    return {
      kind: 'offer',
      build: offered.number,
      artifact: offered.artifact as Digest,
      subject: offered.subject,
      since: offered.endedAt as Instant,
      commitsAhead: await commitsAhead(deps, project, here, offered.commitId),
      newer: open.find(({ number }) => number > offered.number)?.number ?? null,
    };
  const [next] = open;
  if (next === undefined) return null;
  const hasPassed = next.state === 'passed' || next.state === 'reused';
  const isAwaited = hasPassed && rule?.kind === 'follows' && rule.from !== null;
  return {
    kind: 'build',
    build: next.number,
    subject: next.subject,
    state: next.intake === 'held' ? 'held' : isAwaited ? 'awaited' : next.state,
    startedAt: next.startedAt as Instant | null,
    usualMs: usualTime(await usualTimes(deps.db, project.id, null))?.medianMs ?? null,
  };
}

/** What is older than so many open intakes is no news to anybody. */
const mostLookedAt = 20;

/** Why nothing waits: what comes next, and whether what came last failed. */
export async function whyNothing(deps: Deps, { rule, row }: Waiting): Promise<Waits> {
  const [last] = await deps.db
    .select({ state: intakes.state, build: builds.number })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(and(eq(intakes.environmentId, row.id), eq(intakes.intake, row.intake)));
  const of =
    row.ref !== null
      ? nameOfRef(row.ref)
      : rule?.kind === 'follows'
        ? refsInWords(rule.follows)
        : 'no ref';
  const isOnWord = rule !== undefined && rule.kind !== 'accepts' && rule.enters === 'on-word';
  const next = `the next commit on ${of} ${isOnWord ? 'is offered here' : 'comes in by itself'}`;
  const failed = last?.state === 'failed' ? last.build : null;
  return {
    kind: 'nothing',
    why: failed === null ? next : `build ${failed} failed; ${next}`,
    failed,
  };
}
