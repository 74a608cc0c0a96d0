import { setImmediate as breathe } from 'node:timers/promises';
import type { roleRoutes } from '@vaquero/contracts';
import {
  type Digest,
  type Instant,
  isReusable,
  orderSteps,
  planFor,
  type Recipe,
  type RecipeStep,
  readRefName,
  readsOf,
  rootedPlan,
  seenPaths,
  shutIn,
  stepKeyText,
  stepsBefore,
  type TreeFile,
  toolsFor,
  withTools,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible } from '../base/refused.ts';
import { aimOfBuild } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import { type ProjectRow, projectById } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { treeFilesIn } from '../repositories/git-trees.ts';
import { changedValues } from '../variables/changed-values.ts';
import { givenValues } from '../variables/given-values.ts';
import type { AttemptRow } from './attempt-rows.ts';
import type { BuildRecord } from './build-rows.ts';
import { buildById, folderOf } from './build-rows.ts';
import { recentResults, resultUnder } from './step-result-rows.ts';

type Known = roleRoutes.KnownSteps[number];

/** A build's recipe as it is carried out for its ref: the steps that ref wants, paths from the repository's root, pinned tools fetched first. */
export function planOf(project: ProjectRow, build: BuildRecord): Recipe {
  if (build.recipe == null) throw new Impossible('a running build has a recipe');
  const ref = readRefName(build.ref);
  const { recipe } = build.recipe;
  const plan = ref === undefined ? recipe : planFor(recipe, ref, build.proposedInto);
  const allowed = build.aim?.shutInBy === undefined ? plan : shutIn(plan);
  return withTools(rootedPlan(allowed, folderOf(project, build)));
}

/** How many of a project's newest results are read at once; older ones are asked for one by one. */
const mostRecent = 400;

/**
 * Says, for each step whose key can be made by now, its key and what came of it before. `outputs` are
 * digests of what steps of this attempt wrote; where a step is known, its known output stands for it.
 */
export async function knownSteps(
  deps: Deps,
  attempt: AttemptRow,
  outputs: Readonly<Record<string, Digest>>,
): Promise<readonly Known[]> {
  const build = await buildById(deps.db, attempt.buildId);
  const project = await projectById(deps.db, build.projectId);
  const plan = planOf(project, build);
  const [map, { rules }] = await Promise.all([
    mapOf(deps.db, project),
    aimOfBuild(deps.db, project, build),
  ]);
  const ordered = orderSteps(plan.steps);
  if ('faults' in ordered) throw new Impossible('a running build has a recipe in order');
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const [files, given, recent] = await Promise.all([
    treeFilesIn(directory, build.commitId, seenPaths(plan, folderOf(project, build))),
    givenValues(deps, deps.db, map, { project, rules, trust: build.trust }, plan),
    recentResults(deps.db, project.id, mostRecent),
  ]);
  const before = stepsBefore(ordered.order);
  const digests = new Map<string, Digest>(Object.entries(outputs));
  const known: Known[] = [];
  const changed = changedValues(deps.keys, build.variables, given.values);
  for (const step of ordered.order) {
    const names = [...(before.get(step.name) ?? [])].sort();
    if (!isReusable(step) || names.some((name) => !digests.has(name))) continue;
    // What it makes of the value that the build began with must not answer for the one that is set now.
    if (step.given.some((name) => changed.has(name))) continue;
    const key = deps.keys.keyed(
      stepKeyText({
        project: project.id,
        trust: build.trust,
        step,
        helpers: plan.beside,
        files: await readBy(step, files),
        tools: toolsFor(step, attempt.tools ?? {}),
        before: Object.fromEntries(names.map((name) => [name, digests.get(name) ?? ''])),
        given: Object.fromEntries(
          given.values
            .filter((one) => step.given.includes(one.name))
            .map(({ name, value }) => [name, value]),
        ),
      }),
    );
    const found = foundIn(recent.get(key) ?? (await resultUnder(deps.db, project.id, key)));
    known.push({ name: step.name, key, found });
    if (found !== null && !digests.has(step.name)) digests.set(step.name, found.output);
  }
  return known;
}

/** Picks the files that a step reads, and lets others have their turn meanwhile. */
async function readBy(step: RecipeStep, files: readonly TreeFile[]): Promise<readonly TreeFile[]> {
  const pick = readsOf(step);
  const read: TreeFile[] = [];
  for (let from = 0; from < files.length; from += filesInTurn) {
    if (from > 0) await breathe();
    read.push(...pick(files.slice(from, from + filesInTurn)));
  }
  return read;
}

const filesInTurn = 5000;

function foundIn(row: Awaited<ReturnType<typeof resultUnder>>): Known['found'] {
  return row === undefined
    ? null
    : {
        output: row.output,
        build: row.build,
        at: row.at as Instant,
        tookMs: row.tookMs,
      };
}
