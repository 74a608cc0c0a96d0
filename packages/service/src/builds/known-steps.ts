import type { roleRoutes } from '@vaquero/contracts';
import {
  type Digest,
  type Instant,
  isReusable,
  orderSteps,
  planFor,
  type Recipe,
  readRefName,
  rootedPlan,
  seenPaths,
  stepKeyText,
  stepsBefore,
} from '@vaquero/core';
import type { Db } from '../database/pool.ts';
import type { Deps } from '../deps.ts';
import { type ProjectRow, projectById } from '../projects/project-rows.ts';
import { Impossible } from '../refused.ts';
import { directoryOf, treeFilesIn } from '../repositories/bare-repository.ts';
import { givenValues } from '../variables/given-values.ts';
import { type AttemptRow, type BuildRecord, buildById } from './build-rows.ts';
import { resultUnder } from './step-result-rows.ts';

type Known = roleRoutes.KnownSteps[number];

/** A build's recipe as it is carried out for its ref: the steps that ref wants, paths from the repository's root. */
export function planOf(project: ProjectRow, build: BuildRecord): Recipe {
  if (build.recipe == null) throw new Impossible('a running build has a recipe');
  const ref = readRefName(build.ref);
  const { recipe } = build.recipe;
  return rootedPlan(ref === undefined ? recipe : planFor(recipe, ref), project.folder);
}

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
  const ordered = orderSteps(plan.steps);
  if ('faults' in ordered) throw new Impossible('a running build has a recipe in order');
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const [files, given] = await Promise.all([
    treeFilesIn(directory, build.commitId, seenPaths(plan, project.folder)),
    givenValues(deps, deps.db, project, build.ref, plan),
  ]);
  const before = stepsBefore(ordered.order);
  const digests = new Map<string, Digest>(Object.entries(outputs));
  const known: Known[] = [];
  for (const step of ordered.order) {
    const names = [...(before.get(step.name) ?? [])].sort();
    if (!isReusable(step) || names.some((name) => !digests.has(name))) continue;
    const key = deps.keys.keyed(
      stepKeyText({
        project: project.id,
        trust: 'trusted',
        step,
        helpers: plan.beside,
        files,
        tools: attempt.tools ?? {},
        before: Object.fromEntries(names.map((name) => [name, digests.get(name) ?? ''])),
        given: Object.fromEntries(
          given.values
            .filter((one) => step.given.includes(one.name))
            .map(({ name, value }) => [name, value]),
        ),
      }),
    );
    const found = await foundUnder(deps.db, project.id, key);
    known.push({ name: step.name, key, found });
    if (found !== null && !digests.has(step.name)) digests.set(step.name, found.output);
  }
  return known;
}

async function foundUnder(db: Db, projectId: string, key: Digest): Promise<Known['found']> {
  const row = await resultUnder(db, projectId, key);
  return row === undefined
    ? null
    : {
        output: row.output as Digest,
        build: row.build,
        at: row.at as Instant,
        tookMs: row.tookMs,
      };
}
