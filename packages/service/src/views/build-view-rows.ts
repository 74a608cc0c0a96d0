import type { BuildReply } from '@vaquero/contracts';
import { areForOthers } from '@vaquero/core';
import { and, asc, eq, ne } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { artifacts, builds, deploys, environments } from '../database/tables.ts';

/** The newest builds of the same commit by other recipes, or with other environments' values: what else is known of it. */
export async function siblingsOf(deps: Deps, build: BuildRecord): Promise<BuildReply['siblings']> {
  const rows = await deps.db
    .select({
      number: builds.number,
      recipe: builds.recipeName,
      state: builds.state,
      aim: builds.aim,
    })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, build.projectId),
        eq(builds.commitId, build.commitId),
        ne(builds.number, build.number),
      ),
    )
    .orderBy(asc(builds.number));
  const own = build.aim?.rules ?? [];
  const others = rows.flatMap(({ aim, ...row }) => {
    const rules = aim?.rules ?? [];
    const isSameRecipe = row.recipe === build.recipeName;
    if (isSameRecipe && !areForOthers(own, rules)) return [];
    // The column is written from BuildState values only.
    const state = row.state as BuildRecord['state'];
    return [{ ...row, state, wantedBy: isSameRecipe ? [...rules] : [] }];
  });
  const newest = new Map(others.map((row) => [[row.recipe, ...row.wantedBy].join(' '), row]));
  return [...newest.values()];
}

/** How large a build’s artifact is; nulls where it has none. */
export async function sizeOf(
  deps: Deps,
  build: BuildRecord,
): Promise<{ files: number | null; bytes: number | null }> {
  if (build.artifact === null) return { files: null, bytes: null };
  const [row] = await deps.db
    .select({ files: artifacts.files, bytes: artifacts.bytes })
    .from(artifacts)
    .where(and(eq(artifacts.projectId, build.projectId), eq(artifacts.digest, build.artifact)));
  return row ?? { files: null, bytes: null };
}

/** The environments that serve what a build made. */
export async function liveIn(deps: Deps, build: BuildRecord): Promise<readonly string[]> {
  if (build.artifact === null) return [];
  const rows = await deps.db
    .select({ name: environments.name })
    .from(environments)
    .innerJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .where(
      and(
        eq(environments.projectId, build.projectId),
        eq(environments.living, true),
        eq(deploys.artifact, build.artifact),
      ),
    );
  return rows.map((row) => row.name);
}
