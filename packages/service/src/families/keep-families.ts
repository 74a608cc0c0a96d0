import {
  type DeliveryMap,
  type Due,
  type Family,
  type Following,
  type Head,
  isPattern,
  pullRequestOf,
  wants,
  whatLives,
} from '@vaquero/core';
import { byVaquero } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { mayPublish, prepareBuilds } from '../builds/prepare-builds.ts';
import { queueBuild } from '../builds/queue-build.ts';
import { inTransaction } from '../database/transaction.ts';
import { type EnvironmentRow, environmentsOf } from '../environments/environment-rows.ts';
import { closeFamilies, endEnvironment, ensureOfFamily } from '../environments/family-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { presentOf } from '../map/present.ts';
import { settleAll } from '../moves/settle-intakes.ts';
import {
  livingProjects,
  lockProject,
  type ProjectRow,
  projectById,
  refsKnown,
} from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';

/** What a rule wanted and could not have, as its recipe publishes nothing: it is not read again for the same commit. */
const unbuildable = new Set<string>();
const mostUnbuildable = 10_000;

/**
 * Brings what lives to what the map says: what a look makes at once, and what only time, a new map or a process that was
 * killed bring about. It may run twice, or be cut short, and comes to the same.
 */
export async function keepFamilies(deps: Deps, project: ProjectRow): Promise<void> {
  const map = await mapOf(deps.db, project);
  const present = await presentOf(deps, project, [map]);
  const due = whatLives(map, present);
  if (due.closes.length + due.ends.length > 0) await end(deps, project, due);
  let begun = 0;
  const missed = await unfed(deps, project, map, present.heads);
  for (const { rule, head } of [...due.starts, ...due.feeds, ...missed])
    if (await feed(deps, project, map, rule, head)) begun += 1;
  if (begun > 0) await settleAll(deps);
}

/** The same for every project; one that cannot be brought there keeps no other from it. */
export async function keepAllFamilies(deps: Deps): Promise<void> {
  for (const project of await livingProjects(deps.db))
    await keepFamilies(deps, project).catch((err: unknown) =>
      deps.log.warn({ err, project: project.name }, 'its families were not kept'),
    );
}

async function end(deps: Deps, project: ProjectRow, due: Due): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await lockProject(tx, project.id);
    if ((await projectById(tx, project.id)).mapVersion !== project.mapVersion) return;
    for (const { name, at } of due.closes) await closeFamilies(tx, project.id, [name], at);
    const rows = await environmentsOf(tx, project.id);
    for (const { name, because } of due.ends) {
      const row = rows.find((one) => one.name === name && one.ref !== null);
      // A commit that came meanwhile has touched it.
      if (row !== undefined && (because !== 'untouched' || isAsOld(row.touchedAt, deps)))
        await endEnvironment(deps, tx, project, row, because, byVaquero);
    }
  });
}

function isAsOld(touchedAt: number | null, deps: Deps): boolean {
  return touchedAt === null || deps.clock() - touchedAt > 60_000;
}

/**
 * Environments that follow a ref which is there and have taken notice of nothing yet, or that follow one branch alone and
 * missed its newest commit: the map sent it elsewhere as it came. Where several refs go to one environment, what was
 * noticed last stays.
 */
async function unfed(
  deps: Deps,
  project: ProjectRow,
  map: DeliveryMap,
  heads: readonly Head[],
): Promise<readonly { rule: Following; head: Head }[]> {
  const rows = await environmentsOf(deps.db, project.id);
  return rows.flatMap((row) => {
    const rule = map.environments.find(({ name }) => name === row.rule);
    if (row.ref !== null || rule?.kind !== 'follows') return [];
    const head = heads.find(({ ref, into }) => wants(rule, ref, into));
    if (head === undefined) return [];
    const hasMissed = followsOne(rule) && row.head !== null && row.head !== head.commit;
    return row.intake === 0 || hasMissed ? [{ rule, head }] : [];
  });
}

function followsOne({ follows: { branch, tag } }: Following): boolean {
  return branch.length === 1 && tag.length === 0 && !branch.some(isPattern);
}

/** Has an environment take notice of a commit that was there before its rule; false where nothing came of it. */
async function feed(
  deps: Deps,
  project: ProjectRow,
  map: DeliveryMap,
  rule: Family | Following,
  head: Head,
): Promise<boolean> {
  const key = `${project.id} ${map.version} ${rule.name} ${head.ref} ${head.commit}`;
  if (unbuildable.has(key)) return false;
  const { ref, commit, into } = head;
  const proposed =
    pullRequestOf(ref) === undefined || into === null ? null : { into, trust: 'trusted' as const };
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const prepared = await prepareBuilds(deps, directory, project, commit, ref, false, proposed);
  const builds = prepared.filter(
    (build) => mayPublish(build) && build.destination.rules.some(({ name }) => name === rule.name),
  );
  if (builds.length === 0) {
    if (unbuildable.size >= mostUnbuildable) unbuildable.clear();
    unbuildable.add(key);
    return false;
  }
  return inTransaction(deps.db, async (tx) => {
    await lockProject(tx, project.id);
    const locked = await projectById(tx, project.id);
    const now = (await refsKnown(tx, project.repositoryId)).get(ref);
    // Somebody has set another map, or the ref has moved: then that is noticed by itself.
    if (locked.mapVersion !== map.version || now !== commit) return false;
    // Another api process has been here.
    const isOwn = (row: EnvironmentRow): boolean =>
      row.rule === rule.name && (rule.kind === 'each' ? row.ref === ref : row.ref === null);
    const own = (await environmentsOf(tx, project.id)).find(isOwn);
    if (own?.head === commit) return false;
    const place = map.environments.indexOf(rule);
    const name =
      rule.kind === 'follows'
        ? rule.name
        : await ensureOfFamily(deps, tx, { project, rule, place, ref, doing: byVaquero });
    for (const build of builds)
      await queueBuild(deps, tx, {
        project,
        build,
        ref,
        changeId: null,
        begunBy: null,
        cause: `by version ${map.version} of the map`,
        environments: [{ rule: rule.name, name }],
      });
    return true;
  });
}
