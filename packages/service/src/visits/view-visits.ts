import type { DeployVisits, VisitsReply } from '@vaquero/contracts';
import { type Digest, type Instant, makeResolver, rulesOfManifest } from '@vaquero/core';
import { storeOf } from '../artifacts/blob-store.ts';
import { keptManifest } from '../artifacts/manifest.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { type EnvironmentRow, environmentByName } from '../environments/environment-rows.ts';
import { type DeployView, deployById } from '../environments/ledger-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { figuresOf, minutesSince, missesOf } from './visit-rows.ts';

const hourMs = 3_600_000;
const mostMisses = 50;

/**
 * What visitors ask of what is live, beside what they asked of the deploy before, and what they do not find.
 * Refuses: not-found.
 */
export async function viewVisits(
  deps: Deps,
  project: ProjectRow,
  name: string,
): Promise<VisitsReply> {
  const environment = await environmentByName(deps.db, project.id, name);
  if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
  const now = deps.clock();
  const live =
    environment.servesDeployId === null
      ? null
      : await deployById(deps.db, environment.servesDeployId);
  const before =
    live === null || live.previousDeployId === null
      ? null
      : await deployById(deps.db, live.previousDeployId);
  const [minutes, liveVisits, beforeVisits, misses] = await Promise.all([
    minutesSince(deps.db, [environment.id], now - hourMs),
    live && visitsOf(deps, environment, live, null, now),
    before && visitsOf(deps, environment, before, live?.committedAt ?? null, now),
    live === null ? [] : missesOf(deps.db, environment.id, live.number, mostMisses),
  ]);
  const wasAnswered =
    misses.length === 0 || before === null
      ? () => false
      : await answeredBy(deps, project.id, before.artifact);
  return {
    environment: name,
    now,
    live: liveVisits,
    before: beforeVisits,
    minutes: minutes.map(({ from, requests, bad }) => ({ from: from as Instant, requests, bad })),
    misses: misses
      .map(({ path, times, lastAt }) => ({
        path,
        times,
        lastAt: lastAt as Instant,
        answeredBefore: wasAnswered(path),
      }))
      .toSorted((a, b) => Number(b.answeredBefore) - Number(a.answeredBefore)),
  };
}

async function visitsOf(
  deps: Deps,
  { id }: EnvironmentRow,
  deploy: DeployView,
  until: number | null,
  now: Instant,
): Promise<DeployVisits> {
  return {
    ...(await figuresOf(deps.db, id, deploy.number)),
    deploy: deploy.number,
    build: deploy.build,
    from: deploy.committedAt as Instant,
    until: until as Instant | null,
    liveForMs: (until ?? now) - deploy.committedAt,
  };
}

/** Whether an artifact answers a path with a page or file: told by its manifest, whether somebody asked then or not. */
async function answeredBy(
  deps: Deps,
  projectId: string,
  artifact: Digest,
): Promise<(path: string) => boolean> {
  const store = storeOf(deps.config.stateDirectory);
  const manifest = await keptManifest(deps, store, projectId, artifact);
  if (manifest === null) return () => false;
  const paths = new Set<string>(manifest.site.files.map(({ path }) => path));
  const resolve = makeResolver((path) => paths.has(path), rulesOfManifest(manifest));
  return (path) => {
    const answer = resolve(path);
    return answer.kind === 'moved' || (answer.kind === 'file' && answer.status === 200);
  };
}
