import type { Digest, Instant } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { type DeployView, deployById } from '../environments/ledger-rows.ts';
import {
  commitsAhead,
  intakeThatWaits,
  type Waiting,
  type Waits,
  whyNothing,
} from './waiting-rows.ts';

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
