import { closeUploads } from '../artifacts/upload-rows.ts';
import { byMachine, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { endAttempt, type StepRow, setSteps } from '../builds/attempt-rows.ts';
import type { Attempted } from '../builds/attempted.ts';
import { lockBuild } from '../builds/build-rows.ts';
import { packLog } from '../builds/log-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import { settleIntakesOf } from '../moves/settle-intakes.ts';
import { publishIfBehind } from '../routing/publish-table.ts';
import { type AttemptEnd, keepEnd } from './keep-end.ts';
import { makeProvenance } from './keep-provenance.ts';
import { wantPicturesOf } from './want-of-build.ts';

/**
 * Ends an attempt and its build, exactly once: a late attempt changes nothing. One transaction holds the end,
 * the artifact and where it came from: an artifact that is named has passed. `steps` are rows of steps that
 * ended with it.
 * Refuses: attempt-over.
 */
export async function finishAttempt(
  deps: Deps,
  { attempt, build, project }: Attempted,
  end: AttemptEnd,
  steps: readonly StepRow[] = [],
): Promise<void> {
  const at = deps.clock();
  const made = end.ok ? end.made : null;
  const provenance =
    made === null
      ? null
      : await makeProvenance(deps, {
          project,
          build,
          attempt,
          artifact: made.digest,
          recipe: made.recipe,
          ended: steps,
          endedAt: at,
        });
  const { number, commitId } = build;
  const seen = { at, project, doing: byMachine(attempt.runnerId, 'runner') };
  await inTransaction(deps.db, async (tx) => {
    const locked = await lockBuild(tx, build.id);
    if (!(await endAttempt(tx, attempt.id, end.ok ? 'passed' : 'failed')))
      return refused({ code: 'attempt-over', attempt: attempt.id });
    await setSteps(tx, steps);
    // Whatever it opened is over with it: what came of it is kept by now, or by nothing.
    await closeUploads(tx, attempt.id, at);
    await keepEnd(tx, locked, end, provenance, at);
    if (made !== null) {
      const facts = { build: number, artifact: made.digest, ...made.size };
      decide(tx, { ...seen, kind: 'artifact.stored', facts });
    }
    const facts = { build: number, commit: commitId, attempt: attempt.id };
    if (end.ok) {
      const artifact = made?.digest ?? null;
      decide(tx, { ...seen, kind: 'build.passed', facts: { ...facts, artifact } });
    } else {
      const { reason } = end.failure;
      decide(tx, { ...seen, kind: 'build.failed', facts: { ...facts, reason } });
    }
  });
  deps.log.info({ build: build.number, commit: build.commitId, passed: end.ok }, 'build ended');
  // The build has passed whatever comes of its deploys; those that fail here are tried again by the loop.
  if (end.ok)
    await settleIntakesOf(deps, build.id)
      // What edges know of artifacts is old from now on, also where no environment took this one.
      .then(() => deps.follower.catchUp())
      .then(() => publishIfBehind(deps))
      .catch((err: unknown) =>
        deps.log.warn({ err, build: build.number }, 'deploys of a passed build wait'),
      );
  // Last, so that whoever follows the log to its end finds the environment moved.
  await packLog(deps.db, attempt.id);
  deps.logs.tell(attempt.id, null);
  // Beside all that: nobody waits for it.
  if (end.ok)
    void wantPicturesOf(deps, build.id).catch((err: unknown) =>
      deps.log.warn({ err, build: build.number }, 'what a build changes was not compared'),
    );
}
