import {
  type DeliveryMap,
  type Recipe,
  readRefName,
  ruleNamed,
  type Waiting,
  wantedBy,
} from '@vaquero/core';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import type { Aim } from '../database/kept-shapes.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { failIntakes, handIntakesOver } from '../intakes/intake-rows.ts';
import { aimOfBuild } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import {
  lockProject,
  nextBuildNumber,
  type ProjectRow,
  projectById,
} from '../projects/project-rows.ts';
import { changedValues, digestsOf } from '../variables/changed-values.ts';
import {
  type GivenSet,
  type GivenValue,
  givenSets,
  givenTogether,
} from '../variables/given-values.ts';
import { endBuild, insertBuild, setBuild } from './build-change-rows.ts';
import { type BuildRecord, buildById, lockQueued } from './build-rows.ts';
import { planOf } from './known-steps.ts';
import { unsetFailure } from './prepare-builds.ts';

/**
 * The values that a queued build is given as it begins. Undefined where they were set otherwise since it was queued, so
 * that it cannot begin as it is: a name has no value any more, or its environments are given different ones (`partBuild`).
 */
export async function valuesAtClaim(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  build: BuildRecord,
  plan: Recipe,
): Promise<readonly GivenValue[] | undefined> {
  const [own, ...others] = await setsOf(deps, tx, project, build, plan);
  if (own === undefined || own.unset.length > 0 || others.length > 0) return undefined;
  if (changedValues(deps.keys, build.variables, own.values).size > 0)
    // What comes of it answers for no build of the values that it was queued with.
    await setBuild(tx, build.id, { variables: digestsOf(deps.keys, own.values), inputKey: null });
  return own.values;
}

/**
 * Parts a queued build whose values were set otherwise since: each set of values gets a build of its own, which the
 * environments that are given it wait for from then on; where a name has no value any more, that build has failed.
 */
export async function partBuild(deps: Deps, { id }: Waiting): Promise<void> {
  const { projectId } = await buildById(deps.db, id);
  await inTransaction(deps.db, async (tx) => {
    // The project before the build, as whoever queues and overtakes builds takes them.
    await lockProject(tx, projectId);
    const build = await lockQueued(tx, id);
    if (build === undefined) return;
    const project = await projectById(tx, projectId);
    const map = await mapOf(tx, project);
    const [own, ...others] = await setsOf(deps, tx, project, build, planOf(project, build));
    if (own === undefined) return;
    const parts: number[] = [];
    for (const set of others) {
      const next = await nextBuildNumber(tx, projectId);
      await insertPart(deps, tx, map, build, set, next);
      parts.push(next);
    }
    await setBuild(tx, id, columnsOf(deps, map, build, own));
    const failure = unsetFailure(own.unset, build);
    if (failure !== null) {
      await endBuild(tx, id, { state: 'failed', failure, at: deps.clock() });
      await failIntakes(tx, id);
    }
    if (parts.length === 0 && failure === null) return;
    decide(tx, {
      at: deps.clock(),
      kind: 'build.values-changed',
      project,
      doing: byVaquero,
      facts: { build: build.number, commit: build.commitId, parts, unset: own.unset },
    });
  });
}

async function setsOf(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  build: BuildRecord,
  plan: Recipe,
): Promise<readonly GivenSet[]> {
  const [map, { rules }] = await Promise.all([mapOf(tx, project), aimOfBuild(tx, project, build)]);
  const given = plan.serve === null ? givenTogether : givenSets;
  return given(deps, tx, map, { project, rules, trust: build.trust }, plan);
}

/** What a set of values changes about a build. */
function columnsOf(deps: Deps, map: DeliveryMap, build: BuildRecord, set: GivenSet) {
  return {
    aim: aimAt(map, build, set.rules),
    priority:
      build.priority === 0 ? 0 : set.rules.includes(map.environments[0]?.name ?? '') ? 2 : 1,
    variables: digestsOf(deps.keys, set.values),
    inputKey: null,
  };
}

function aimAt(map: DeliveryMap, build: BuildRecord, names: readonly string[]): Aim | null {
  const ref = readRefName(build.ref);
  if (build.aim == null || ref === undefined) return build.aim;
  if (names.length === build.aim.rules.length) return { ...build.aim, rules: names };
  const rules = names.flatMap((name) => {
    const rule = ruleNamed(map, name);
    return rule === undefined || rule.kind === 'accepts' ? [] : [rule];
  });
  const why = `${wantedBy(rules, ref, build.proposedInto)}, with values of its own`;
  return { ...build.aim, map: map.version, rules: names, why };
}

async function insertPart(
  deps: Deps,
  tx: Tx,
  map: DeliveryMap,
  build: BuildRecord,
  set: GivenSet,
  number: number,
): Promise<void> {
  const id = deps.newId();
  const failure = unsetFailure(set.unset, build);
  const at = failure === null ? null : deps.clock();
  await insertBuild(tx, {
    ...build,
    ...columnsOf(deps, map, build, set),
    id,
    number,
    state: failure === null ? 'queued' : 'failed',
    failure,
    attempts: 0,
    startedAt: at,
    endedAt: at,
    cause: `parted from ${build.number}, as ${set.rules.join(' and ')} is given other values`,
  });
  const ids = (await environmentsOf(tx, build.projectId))
    .filter(({ rule }) => set.rules.includes(rule))
    .map((row) => row.id);
  await handIntakesOver(tx, build.id, { id, hasFailed: failure !== null }, ids);
}
