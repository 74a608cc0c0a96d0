import { type Instant, readCommitId, refOfBranch } from '@vaquero/core';
import { CronExpressionParser } from 'cron-parser';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { type Lease, requireLease } from '../database/leases.ts';
import { inTransaction } from '../database/transaction.ts';
import { mapOf } from '../map/map-rows.ts';
import { namedEnvironments } from '../map/named-environments.ts';
import {
  livingProjects,
  lockProject,
  type ProjectRow,
  refsKnown,
} from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { mayPublish, prepareBuilds } from './prepare-builds.ts';
import { queueBuild } from './queue-build.ts';
import { newestWithRecipe, nextRecipe } from './scheduled-rows.ts';

/** The instant a schedule was last due at or before another. Source: crontab(5), five fields, read in a time zone. Throws when it is no schedule. */
export function lastDue(cron: string, at: Instant, zone = 'UTC'): Instant {
  const options = { currentDate: new Date(at + 1), tz: zone };
  return CronExpressionParser.parse(cron, options).prev().getTime() as Instant;
}

/**
 * Builds again, every step afresh, what its recipe's schedule makes due. A ref that was built since it was
 * due is left alone: what was missed while the service was down is made up for once.
 */
export async function buildOnSchedule(deps: Deps, lease: Lease): Promise<void> {
  for (const project of await livingProjects(deps.db)) {
    await buildProject(deps, lease, project).catch((err: unknown) =>
      deps.log.warn({ err, project: project.name }, 'a scheduled build was not made'),
    );
  }
}

async function buildProject(deps: Deps, lease: Lease, project: ProjectRow): Promise<void> {
  for (let name = await nextRecipe(deps.db, project.id, ''); name !== null; ) {
    await buildRecipe(deps, lease, project, name);
    name = await nextRecipe(deps.db, project.id, name);
  }
}

async function buildRecipe(
  deps: Deps,
  lease: Lease,
  project: ProjectRow,
  name: string,
): Promise<void> {
  const newest = await newestWithRecipe(deps.db, project.id, name, null);
  const again = newest?.recipe?.recipe.again ?? null;
  const ref = again === null ? undefined : refOfBranch(again.branch ?? project.branch);
  if (again === null || ref === undefined) return;
  const { zone } = await mapOf(deps.db, project);
  const due = lastDue(again.cron, deps.clock(), zone);
  const last = await newestWithRecipe(deps.db, project.id, name, ref);
  const head = readCommitId((await refsKnown(deps.db, project.repositoryId)).get(ref) ?? '');
  if (last === undefined || last.queuedAt >= due || head === undefined) return;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const all = await prepareBuilds(deps, directory, project, head, ref, false, null);
  // None where the newest commit has no such recipe any more, or it is for other refs now.
  const prepared = all.filter((one) => one.name === name).map((one) => ({ ...one, known: null }));
  await inTransaction(deps.db, async (tx) => {
    await requireLease(tx, lease);
    // A person may have been here between the reading and the lock.
    await lockProject(tx, project.id);
    const still = await newestWithRecipe(tx, project.id, name, ref);
    if (still === undefined || still.queuedAt >= due) return;
    for (const build of prepared) {
      const environments = mayPublish(build)
        ? await namedEnvironments(deps, tx, { project, ...build, ref, doing: byVaquero })
        : [];
      const { number } = await queueBuild(deps, tx, {
        project,
        build,
        ref,
        changeId: null,
        begunBy: null,
        cause: `again, by its schedule ${again.cron}`,
        environments,
        earlier: 'left',
      });
      decide(tx, {
        at: deps.clock(),
        kind: 'build.scheduled',
        project,
        doing: byVaquero,
        facts: { build: number, commit: head, cron: again.cron },
      });
    }
  });
}
