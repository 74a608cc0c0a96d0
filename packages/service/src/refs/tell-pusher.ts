import { setTimeout as pause } from 'node:timers/promises';
import { failureInWords, isOpen, terminalText } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { latestAttempt } from '../builds/attempt-rows.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { buildById } from '../builds/build-rows.ts';
import { explainFailure } from '../builds/explain-failure.ts';
import { listBuilds, marksOf } from '../builds/listed-build-rows.ts';
import { readLog } from '../builds/log-rows.ts';
import { livingProjectsOf, projectById } from '../projects/project-rows.ts';
import type { Doorbell, Ring } from '../repositories/rings.ts';

/** The push option that asks for the log in the terminal: `git push -o follow`. */
export const followOption = 'follow';
/** How long a push waits for its builds to be known; they come all the same. */
const lookWithinMs = 5_000;

/**
 * Rings the doorbell for a push and tells the pusher where its builds are, and, if asked to, their logs as
 * they come. `say` returns false once nobody listens any more.
 */
export async function tellPusher(
  deps: Deps,
  doorbell: Doorbell,
  repositoryId: string,
  ring: Ring,
  follow: boolean,
  say: (line: string) => boolean,
): Promise<void> {
  // Ids follow the order of their making: what has a higher one was queued after the push.
  const since = deps.newId();
  const look = doorbell.ringAndWait(repositoryId, ring).then(
    () => true,
    (err: unknown) => {
      deps.log.warn({ err, repositoryId }, 'the look after a push failed; it is tried again');
      return false;
    },
  );
  if (!(await Promise.race([look, pause(lookWithinMs, false)]))) {
    say('The push is kept; its builds are not known yet.');
    return;
  }
  for (const project of await livingProjectsOf(deps.db, repositoryId)) {
    const fresh = (await listBuilds(deps.db, project.id, Number.MAX_SAFE_INTEGER, 5)).filter(
      (build) => build.id > since,
    );
    for (const build of fresh.toReversed()) {
      say(`build ${build.number} of ${project.name}: ${build.state}`);
      say(`${deps.config.origin}/p/${project.name}/builds/${build.number}`);
      if (follow) await followBuild(deps, build.id, say);
    }
    if (fresh.length === 0) say(`${project.name}: no environment wants what was pushed`);
  }
}

/** Says a build's log line by line as it comes, then how it ended. */
async function followBuild(
  deps: Deps,
  buildId: string,
  say: (line: string) => boolean,
): Promise<void> {
  let offset = 0;
  let attemptId = '';
  let rest = '';
  for (;;) {
    const build = await buildById(deps.db, buildId);
    const attempt = await latestAttempt(deps.db, buildId);
    if (attempt !== undefined && attempt.id !== attemptId) {
      attemptId = attempt.id;
      offset = 0;
    }
    const bytes =
      attempt === undefined ? Buffer.alloc(0) : await readLog(deps.db, attemptId, offset);
    offset += bytes.length;
    const lines = (rest + bytes.toString('utf8')).split('\n');
    rest = lines.pop() ?? '';
    // It goes straight to the pusher's terminal.
    if (!lines.every((line) => say(terminalText(line, true)))) return;
    if (!isOpen(build.state)) {
      for (const line of await endOf(deps, build)) say(terminalText(line, false));
      return;
    }
    await nextChunk(deps, attemptId);
  }
}

/** How a build ended; of one whose step failed, the line that tells and what helps against it. */
async function endOf(deps: Deps, build: BuildRecord): Promise<readonly string[]> {
  if (build.failure == null) {
    const marks = (await marksOf(deps.db, [build.id])).get(build.id) ?? [];
    return [`build ${build.number} ${[build.state, ...marks].join(', ')}`];
  }
  const { what, why, next } = failureInWords(build.failure);
  const head = `build ${build.number} ${build.state}: ${what}`;
  if (build.failure.reason !== 'step') return [`${head} ${why} ${next}`];
  const project = await projectById(deps.db, build.projectId);
  const { tellingLine, explanation } = await explainFailure(deps, project, build);
  return [
    `${head} ${explanation?.next ?? next}`,
    ...(tellingLine === null ? [] : [`line ${tellingLine.number}: ${tellingLine.text}`]),
  ];
}

/** Waits until an attempt says something, half a second at most. */
function nextChunk(deps: Deps, attemptId: string): Promise<void> {
  return new Promise((resolve) => {
    const done = (): void => {
      clearTimeout(timer);
      quit();
      resolve();
    };
    const timer = setTimeout(done, 500);
    const quit = deps.logs.listen(attemptId, done);
  });
}
