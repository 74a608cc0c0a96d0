import type { environmentRoutes } from '@vaquero/contracts';
import { type Instant, liveForMs, undoneNumbers } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../deps.ts';
import { environmentByName } from '../environments/environment-rows.ts';
import { deployCount, entryOf, ledgerOf, ledgerPage } from '../environments/ledger-rows.ts';
import { viewDeploy } from '../environments/view-environments.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';

type History = z.output<typeof environmentRoutes.historyRoute.reply>;

/** A page of an environment's history, newest first. Refuses: not-found. */
export async function viewHistory(
  deps: Deps,
  project: ProjectRow,
  name: string,
  before: number,
  limit: number,
): Promise<History> {
  const environment = await environmentByName(deps.db, project.id, name);
  if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
  const now = deps.clock();
  const [page, whole, total] = await Promise.all([
    ledgerPage(deps.db, environment.id, before, limit + 2),
    ledgerOf(deps.db, environment.id),
    deployCount(deps.db, environment.id),
  ]);
  const undone = undoneNumbers(whole.map(entryOf));
  const times = liveForMs(whole.map(entryOf), now);
  const deploys = page.slice(0, limit).map((deploy) => ({
    ...viewDeploy(deploy, undone.has(deploy.number)),
    liveForMs: times[whole.findIndex((each) => each.number === deploy.number)] ?? 0,
  }));
  return {
    environment: name,
    now: now as Instant,
    total,
    undone: undone.size,
    deploys,
    more: page.length > limit,
  };
}
