import type { environmentRoutes } from '@vaquero/contracts';
import { type Instant, liveForMs, undoneNumbers } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { environmentEver } from '../environments/environment-rows.ts';
import { deployByNumber, entryOf, ledgerPage, undoneSpans } from '../environments/ledger-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { viewDeploy } from './view-environments.ts';

type History = z.output<typeof environmentRoutes.historyRoute.reply>;

/** A page of an environment's history, newest first. Refuses: not-found. */
export async function viewHistory(
  deps: Deps,
  project: ProjectRow,
  name: string,
  before: number,
  limit: number,
): Promise<History> {
  const environment = await environmentEver(deps.db, project.id, name);
  if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
  // What has ended serves nothing any more: its last deploy was live until then.
  const endedAt = environment.endedAt as Instant | null;
  const now = endedAt ?? deps.clock();
  const [page, spans] = await Promise.all([
    ledgerPage(deps.db, environment.id, before, limit + 1),
    undoneSpans(deps.db, environment.id, 1),
  ]);
  const undone = undoneNumbers(spans);
  const [newest] = page;
  // The newest of a page was live until the one behind it came.
  const next = newest && (await deployByNumber(deps.db, environment.id, newest.number + 1));
  const times = liveForMs(
    page.toReversed().map(entryOf),
    (next?.committedAt ?? now) as Instant,
  ).toReversed();
  const deploys = page.slice(0, limit).map((deploy, place) => ({
    ...viewDeploy(deploy, undone.has(deploy.number)),
    liveForMs: times[place] ?? 0,
  }));
  return {
    environment: name,
    now: now as Instant,
    endedAt,
    // Numbers rise by one.
    total: environment.lastDeploy,
    undone: undone.size,
    deploys,
    more: page.length > limit,
  };
}
