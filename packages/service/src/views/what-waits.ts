import type { EnvironmentSeen } from '@vaquero/contracts';
import {
  type Digest,
  type EnvironmentRule,
  type Instant,
  nameOfRef,
  refsInWords,
  usualTime,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { usualTimes } from '../builds/build-rows.ts';
import type { EnvironmentRow } from '../environments/environment-rows.ts';
import { type DeployView, deployById } from '../environments/ledger-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { commitsBetween, directoryOf } from '../repositories/bare-repository.ts';
import { newestIntake, openIntakes } from './waiting-rows.ts';

type Waits = EnvironmentSeen['waits'];

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

/**
 * What waits to come in: first what somebody's word is asked for, then the newest build of what it follows, then what the
 * environment that it accepts from serves.
 */
export async function whatWaits(deps: Deps, waiting: Waiting): Promise<Waits> {
  const { row, rule, from } = waiting;
  const here = row.servesDeployId === null ? null : await deployById(deps.db, row.servesDeployId);
  if (from !== null && rule?.kind !== 'follows')
    return artifactThatWaits(deps, waiting, from, here);
  const own = await intakeThatWaits(deps, waiting, here);
  if (own !== null) return own;
  if (from === null) return whyNothing(deps, waiting);
  return artifactThatWaits(deps, waiting, from, here);
}

async function artifactThatWaits(
  deps: Deps,
  { project, rows }: Waiting,
  from: string,
  here: DeployView | null,
): Promise<Waits> {
  const source = rows.find((each) => each.name === from);
  if (source === undefined || source.servesDeployId === null)
    return { kind: 'nothing', why: `${from} serves nothing yet`, failed: null };
  const there = await deployById(deps.db, source.servesDeployId);
  if (here?.artifact === there.artifact)
    return { kind: 'nothing', why: `the same bytes as ${from}`, failed: null };
  return {
    kind: 'artifact',
    artifact: there.artifact as Digest,
    build: there.build,
    subject: there.subject,
    since: there.committedAt as Instant,
    commitsAhead: await commitsAhead(deps, project, here, there.commitId),
    buildsAhead: here === null ? 1 : Math.max(0, there.build - here.build),
  };
}

/** How many commits one is ahead of another; null where nothing is served there. */
async function commitsAhead(
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
async function intakeThatWaits(
  deps: Deps,
  { project, row, rule }: Waiting,
  here: DeployView | null,
): Promise<Waits | null> {
  const open = await openIntakes(deps.db, row.id);
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

/** Why nothing waits: what comes next, and whether what came last failed. */
async function whyNothing(deps: Deps, { rule, row }: Waiting): Promise<Waits> {
  const last = await newestIntake(deps.db, row);
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
