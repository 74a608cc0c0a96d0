import { roleRoutes } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import type { Express, Request } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { prolongLease, setSteps, setTools } from '../builds/attempt-rows.ts';
import { attempted } from '../builds/attempted.ts';
import { buildById } from '../builds/build-rows.ts';
import { claim, leaseMs } from '../builds/claim.ts';
import { knownSteps } from '../builds/known-steps.ts';
import { keepLog } from '../builds/log-rows.ts';
import { withPlace } from '../builds/place-of-fault.ts';
import { noteStepResult } from '../builds/step-result-rows.ts';
import { finishAttempt } from '../completion/finish-attempt.ts';
import { takeProposal } from '../completion/propose-artifact.ts';
import { takeReport } from '../evidence/take-report.ts';
import { serve } from '../http/serve-route.ts';
import { heardOfRunner, noteRunner } from '../machines/runner-rows.ts';
import { serveSource } from './source-routes.ts';
import { serveUploads } from './upload-routes.ts';

const largestChunk = 4 << 20;

/** Serves runners: claims with the runner's token, all else with the credential of one attempt alone. */
export function serveAttempts(app: Express, deps: Deps): void {
  serve(app, deps, roleRoutes.claimRoute, async ({ res, body, machine }) => {
    const { instance, tools, waitMs, slots, labels, keeps } = body;
    await noteRunner(deps.db, machine.id, { instance, slots, labels });
    const gone = new AbortController();
    res.on('close', () => gone.abort());
    return claim(
      deps,
      { runnerId: machine.id, instance, tools, labels, keeps },
      waitMs,
      gone.signal,
    );
  });
  serve(app, deps, roleRoutes.attemptBeatRoute, async ({ attempt }) => {
    await heardOfRunner(deps.db, attempt.runnerId);
    if (!(await prolongLease(deps.db, attempt.id, leaseMs)))
      return refused({ code: 'attempt-over', attempt: attempt.id });
    return null;
  });
  serveSource(app, deps);
  serveUploads(app, deps);
  serve(app, deps, roleRoutes.attemptLogRoute, async ({ req, query, attempt }) => {
    const bytes = await bodyOf(req);
    const { offset, segments } = query;
    if (!(await keepLog(deps.db, attempt, { offset, bytes, segments }))) {
      return refused({
        code: 'invalid-request',
        faults: [
          {
            path: 'offset',
            message: `leaves a gap after ${attempt.logBytes}`,
            line: null,
            column: null,
          },
        ],
      });
    }
    deps.logs.tell(attempt.id, { offset: query.offset, bytes });
    return null;
  });
  serve(app, deps, roleRoutes.attemptStepsRoute, async ({ body, attempt }) => {
    await setSteps(
      deps.db,
      body.steps.map(({ at, state, ...step }) => ({
        attemptId: attempt.id,
        ...step,
        state,
        startedAt: state === 'running' || state === 'reused' ? at : null,
        endedAt: state === 'running' ? null : at,
      })),
    );
    deps.news.noteReport();
    return null;
  });
  serve(app, deps, roleRoutes.attemptKnownRoute, async ({ body, attempt }) => {
    const tools = { ...attempt.tools, ...body.tools };
    if (body.tools !== undefined) await setTools(deps.db, attempt.id, tools);
    return { steps: [...(await knownSteps(deps, { ...attempt, tools }, body.outputs))] };
  });
  serve(app, deps, roleRoutes.attemptResultRoute, async ({ body, attempt }) => {
    const build = await buildById(deps.db, attempt.buildId);
    const { projectId } = build;
    const row = { projectId, buildId: build.id, at: deps.clock(), ...body };
    return { differs: ((await noteStepResult(deps.db, row)) ?? null) as Digest | null };
  });
  serve(app, deps, roleRoutes.attemptReportRoute, async ({ body, attempt }) => ({
    problem: await takeReport(deps, await buildById(deps.db, attempt.buildId), body),
  }));
  serve(app, deps, roleRoutes.proposeArtifactRoute, async ({ body, attempt }) => ({
    artifact: await takeProposal(deps, attempt, body),
  }));
  serve(app, deps, roleRoutes.attemptPassedRoute, async ({ attempt }) => {
    const what = await attempted(deps, attempt);
    // A recipe that publishes passes by its artifact and by nothing else.
    if (what.build.recipe?.recipe.serve !== null)
      return refused({ code: 'attempt-over', attempt: attempt.id });
    await finishAttempt(deps, what, { ok: true, made: null });
    return null;
  });
  serve(app, deps, roleRoutes.attemptFailedRoute, async ({ body, attempt }) => {
    const what = await attempted(deps, attempt);
    const failure = await withPlace(deps, what, body.failure);
    await finishAttempt(deps, what, { ok: false, failure });
    return null;
  });
}

async function bodyOf(req: Request): Promise<Buffer> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of req as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > largestChunk)
      return refused({ code: 'too-large', what: 'A piece of a log', limitBytes: largestChunk });
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}
