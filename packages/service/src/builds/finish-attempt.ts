import type { BuildFailure, CommitId, Digest, Recipe } from '@vaquero/core';
import { eq } from 'drizzle-orm';
import { byVaquero, record } from '../audit/record.ts';
import { type attemptSteps, builds } from '../database/tables.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { keepProvenance } from '../evidence/keep-provenance.ts';
import { projectById } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';
import { settleIntakesOf } from '../releases/settle-intakes.ts';
import {
  type AttemptRow,
  buildById,
  endAttempt,
  endBuild,
  lockBuild,
  setSteps,
} from './build-rows.ts';
import { failIntakes } from './claim.ts';
import { packLog } from './log-rows.ts';

/** How an attempt ended: with an artifact that answers, with evidence alone, or with a failure. */
export type AttemptEnd =
  | { readonly ok: true; readonly artifact: null }
  | { readonly ok: true; readonly artifact: Digest; readonly recipe: Recipe }
  | { readonly ok: false; readonly failure: BuildFailure };

/**
 * Ends an attempt and its build, exactly once: a late attempt changes nothing. `steps` are rows of steps
 * that ended with it.
 * Refuses: attempt-over.
 */
export async function finishAttempt(
  deps: Deps,
  attempt: AttemptRow,
  end: AttemptEnd,
  steps: readonly (typeof attemptSteps.$inferInsert)[] = [],
): Promise<void> {
  const build = await buildById(deps.db, attempt.buildId);
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    const locked = await lockBuild(tx, attempt.buildId);
    if (!(await endAttempt(tx, attempt.id, end.ok ? 'passed' : 'failed')))
      return refused({ code: 'attempt-over', attempt: attempt.id });
    await setSteps(tx, steps);
    if (end.ok) {
      await endBuild(tx, build.id, { state: 'passed', artifact: end.artifact, at });
      if (locked.recipe != null && 'recipe' in end)
        await tx
          .update(builds)
          .set({ recipe: { ...locked.recipe, recipe: end.recipe } })
          .where(eq(builds.id, build.id));
    } else {
      await endBuild(tx, build.id, { state: 'failed', failure: end.failure, at });
      await failIntakes(tx, build.id);
    }
    const project = await projectById(tx, build.projectId);
    if (end.ok && end.artifact !== null)
      await keepProvenance(deps, tx, project, build, attempt, {
        artifact: end.artifact,
        recipe: end.recipe,
        endedAt: at,
      });
    await record(tx, {
      at,
      kind: end.ok ? 'build.passed' : 'build.failed',
      projectId: project.id,
      project: project.name,
      doing: byVaquero,
      facts: {
        build: build.number,
        commit: build.commitId as CommitId,
        attempt: attempt.id,
        ...(end.ok ? { artifact: end.artifact } : { reason: end.failure.reason }),
      },
    });
  });
  deps.events.tell(build.projectId, { what: 'build', build: build.number });
  deps.log.info({ build: build.number, commit: build.commitId, passed: end.ok }, 'build ended');
  // The build has passed whatever comes of its deploys; those that fail here are tried again by the loop.
  if (end.ok)
    await settleIntakesOf(deps, build.id).catch((err: unknown) =>
      deps.log.warn({ err, build: build.number }, 'deploys of a passed build wait'),
    );
  // Last, so that whoever follows the log to its end finds the environment moved.
  await packLog(deps.db, attempt.id);
  deps.events.tellLog(attempt.id, null);
}
