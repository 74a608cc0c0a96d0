import { randomBytes } from 'node:crypto';
import { type AttemptGiven, recipeRoutes } from '@vaquero/contracts';
import type { Digest, Waiting } from '@vaquero/core';
import { byMachine, byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { sha256 } from '../base/sha256.ts';
import { inTransaction } from '../database/transaction.ts';
import { failIntakes } from '../intakes/intake-rows.ts';
import { isDraining } from '../machines/runner-rows.ts';
import { projectById } from '../projects/project-rows.ts';
import { noteUse } from '../variables/variable-rows.ts';
import {
  type AttemptRow,
  attemptsOfOthers,
  endAttempt,
  insertAttempt,
  lapsedAttempts,
} from './attempt-rows.ts';
import { endBuild, requeueBuild, setBuild } from './build-change-rows.ts';
import { buildById, lockBuild, lockQueued } from './build-rows.ts';
import { planOf } from './known-steps.ts';
import { packLog } from './log-rows.ts';
import { nextWaiting } from './queue-rows.ts';
import { changesSince, circleOf, sightOf } from './seen-source.ts';
import { partBuild, valuesAtClaim } from './values-at-claim.ts';

/** How long an attempt lives without a heartbeat. */
export const leaseMs = 10_000;
const mostAttempts = 3;

/** A claim of one runner process. */
export interface Claim {
  readonly runnerId: string;
  readonly instance: string;
  readonly tools: Readonly<Record<string, string>>;
  readonly labels: readonly string[];
  /** The trees that are kept where the build would run, by their sights. */
  readonly keeps: readonly { readonly sight: Digest; readonly commit: string }[];
}

/**
 * Waits for a build and gives it to a runner. A new instance of a runner first loses what an older one
 * of the same name still held: that process is gone.
 */
export async function claim(
  deps: Deps,
  asked: Claim,
  waitMs: number,
  signal: AbortSignal,
): Promise<AttemptGiven | null> {
  for (const attempt of await attemptsOfOthers(deps.db, asked.runnerId, asked.instance))
    await loseAttempt(deps, attempt);
  const until = performance.now() + waitMs;
  for (;;) {
    const given = await deps.claimTurn(() => claimNext(deps, asked, signal));
    const leftMs = until - performance.now();
    if (given !== null) return { ...given.given, since: await given.since };
    if (leftMs <= 0 || signal.aborted) return null;
    await deps.queueNudge.wait(leftMs, signal);
    if (signal.aborted) return null;
  }
}

/** An attempt as its transaction left it. */
interface Begun {
  readonly given: Omit<AttemptGiven, 'since'>;
  /** Read beside the transaction: Git has no part in it. */
  readonly since: Promise<AttemptGiven['since']>;
}

async function claimNext(deps: Deps, asked: Claim, signal: AbortSignal): Promise<Begun | null> {
  if (signal.aborted) return null;
  const [draining, next] = await Promise.all([
    isDraining(deps.db, asked.runnerId),
    nextWaiting(deps.db, asked.labels),
  ]);
  return draining || next === null ? null : claimNow(deps, asked, next);
}

async function claimNow(deps: Deps, asked: Claim, next: Waiting): Promise<Begun | null> {
  const { runnerId, instance, tools, labels } = asked;
  const credential = randomBytes(32).toString('base64url');
  const begun = await inTransaction(deps.db, async (tx): Promise<Begun | 'parts' | null> => {
    const build = await lockQueued(tx, next.id);
    if (build === undefined) return null;
    const project = await projectById(tx, build.projectId);
    const plan = planOf(project, build);
    const values = await valuesAtClaim(deps, tx, project, build, plan);
    if (values === undefined) return 'parts';
    const sight = sightOf(project, build) as Digest;
    const kept = asked.keeps.find((one) => one.sight === sight)?.commit;
    const since = changesSince(deps, project, build, kept);
    const fence = build.attempts + 1;
    const id = deps.newId();
    await insertAttempt(tx, leaseMs, {
      id,
      buildId: build.id,
      fence,
      runnerId,
      instance,
      credentialHash: sha256(credential),
      state: 'running',
      tools,
    });
    const startedAt = deps.clock();
    await setBuild(tx, build.id, { state: 'running', attempts: fence, startedAt });
    const names = values.map((one) => one.name);
    await noteUse(tx, project.id, names, startedAt);
    const given = {
      attempt: id,
      credential,
      fence,
      leaseMs,
      project: project.name,
      builtAs: project.builtAs,
      build: build.number,
      commit: build.commitId,
      ref: build.ref,
      sight,
      circle: circleOf(build),
      recipe: recipeRoutes.recipeSeen.parse(plan),
      recipeIs: build.recipe?.source.from ?? 'file',
      earlier: build.earlier,
      given: [...values],
    };
    decide(tx, {
      at: startedAt,
      kind: 'attempt.begun',
      project,
      doing: byMachine(runnerId, 'runner'),
      facts: { build: build.number, attempt: id, fence, runner: runnerId },
    });
    return { given, since };
  });
  if (begun === 'parts') await partBuild(deps, next);
  else if (begun !== null) return begun;
  // Somebody else was given it between the choice and the lock: there may be another.
  const other = await nextWaiting(deps.db, labels);
  return other === null ? null : claimNow(deps, asked, other);
}

/** Loses the attempts whose lease has lapsed. */
export async function sweepLapsed(deps: Deps): Promise<void> {
  for (const attempt of await lapsedAttempts(deps.db)) await loseAttempt(deps, attempt);
}

/** Ends an attempt that went silent; its build is queued again, or failed when it was lost too often. */
async function loseAttempt(deps: Deps, attempt: AttemptRow): Promise<void> {
  const build = await buildById(deps.db, attempt.buildId);
  const lost = await inTransaction(deps.db, async (tx) => {
    await lockBuild(tx, attempt.buildId);
    if (!(await endAttempt(tx, attempt.id, 'lost'))) return false;
    if (attempt.fence < mostAttempts) {
      await requeueBuild(tx, attempt.buildId);
    } else {
      await endBuild(tx, attempt.buildId, {
        state: 'failed',
        failure: { reason: 'runner-lost', attempts: attempt.fence },
        at: deps.clock(),
      });
      await failIntakes(tx, attempt.buildId);
    }
    const project = await projectById(tx, build.projectId);
    decide(tx, {
      at: deps.clock(),
      kind: 'attempt.lost',
      project,
      doing: byVaquero,
      facts: { build: build.number, attempt: attempt.id, fence: attempt.fence },
    });
    return true;
  });
  if (!lost) return;
  await packLog(deps.db, attempt.id);
  deps.logs.tell(attempt.id, null);
  deps.log.warn({ build: build.number, attempt: attempt.id, fence: attempt.fence }, 'attempt lost');
}
