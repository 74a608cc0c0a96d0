import type { PullRequestReply } from '@vaquero/contracts';
import { refOfBranch, wants } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { ListedBuild } from '../builds/listed-build-rows.ts';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import { environmentByName } from '../environments/environment-rows.ts';
import { deployById } from '../environments/ledger-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

/**
 * The two builds that tell what a pull request changes: what is served where its target goes, or at the top where that
 * goes nowhere, and the newest of its own that made an artifact. Null where one of them is not there.
 * `own` are the builds of its commits, the newest first.
 */
export async function whatCompares(
  deps: Deps,
  project: ProjectRow,
  { into, state }: PullRequestRow,
  own: readonly ListedBuild[],
): Promise<PullRequestReply['compares']> {
  const built = own.find(({ artifact }) => artifact !== null);
  // What is merged has changed what it would.
  if (built === undefined || state !== 'open') return null;
  const served = await servedWhere(deps, project, into);
  return served && { ...served, after: built.number };
}

/** The build that is served where a branch goes, or at the top where that goes nowhere; null where nothing is. */
export async function servedWhere(
  deps: Deps,
  project: ProjectRow,
  branch: string,
): Promise<{ readonly environment: string; readonly before: number } | null> {
  const map = await mapOf(deps.db, project);
  const ref = refOfBranch(branch);
  const following = map.environments.find(
    (rule) => rule.kind === 'follows' && ref !== undefined && wants(rule, ref, null),
  );
  const name = (following ?? map.environments[0])?.name;
  const target =
    name === undefined ? undefined : await environmentByName(deps.db, project.id, name);
  if (target === undefined || target.servesDeployId === null) return null;
  const { build } = await deployById(deps.db, target.servesDeployId);
  return { environment: target.name, before: build };
}
