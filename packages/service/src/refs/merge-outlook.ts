import type { PullRequestReply } from '@vaquero/contracts';
import {
  type CommitId,
  destinationOf,
  entranceOf,
  type Family,
  type Following,
  type RefName,
  refOfBranch,
  refOfPullRequest,
  spanInWords,
  trustOf,
} from '@vaquero/core';
import { mayPublish, type PreparedBuild, prepareBuilds } from '../builds/queue-build.ts';
import type { Deps } from '../deps.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { type ProjectRow, refsKnown, repositoryById } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { type Merge, mergeOf } from '../repositories/merge-commits.ts';
import type { PullRequestRow } from './pull-request-rows.ts';

type Outlook = PullRequestReply['merge'];

/** Whether an open pull request merges cleanly, and what that would do to environments; null for one that has ended. */
export async function mergeOutlook(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
): Promise<Outlook> {
  const ref = refOfBranch(pull.into);
  const [refs, repository] = await Promise.all([
    refsKnown(deps.db, project.repositoryId),
    repositoryById(deps.db, project.repositoryId),
  ]);
  const target = ref === undefined ? undefined : refs.get(ref);
  const { head } = pull;
  if (pull.state !== 'open' || head === null || ref === undefined || target === undefined)
    return null;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const merge = await mergeOf(directory, target, head);
  return {
    target,
    how: merge.how,
    paths: merge.how === 'conflicts' ? [...merge.paths] : [],
    why: merge.how === 'impossible' ? merge.why : null,
    isHere: repository.kind === 'hosted',
    follows:
      merge.how === 'fast-forward' || merge.how === 'commit'
        ? [...(await whatFollows(deps, project, pull, ref, merge))]
        : [],
  };
}

/** What a merge would do to environments, a sentence each. */
async function whatFollows(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
  ref: RefName,
  merge: Merge,
): Promise<readonly string[]> {
  const map = await mapOf(deps.db, project);
  const { rules } = destinationOf(map, ref);
  const own = refOfPullRequest(pull.number);
  const preview = (await environmentsOf(deps.db, project.id)).find((row) => row.ref === own);
  const family = map.environments.find((rule) => rule.name === preview?.rule);
  const ends =
    preview !== undefined && family?.kind === 'each'
      ? [`${preview.name} ends ${spanInWords(family.ends.closedMs)} later.`]
      : [];
  if (rules.length === 0) return [`${pull.into} goes to no environment.`, ...ends];
  const built =
    merge.how === 'fast-forward' && pull.head !== null
      ? await builtFor(deps, project, ref, pull.head)
      : null;
  return [...rules.map((rule) => followsIn(rule, merge, built)), ...ends, ...outsiders(pull)];
}

/** A fast-forward brings the very commit that is there: what its build would be is known beforehand. */
async function builtFor(
  deps: Deps,
  project: ProjectRow,
  ref: RefName,
  head: CommitId,
): Promise<PreparedBuild | null> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const prepared = await prepareBuilds(deps, directory, project, head, ref, false, null);
  return prepared.find(mayPublish) ?? null;
}

function followsIn(rule: Following | Family, merge: Merge, built: PreparedBuild | null): string {
  const place = rule.kind === 'each' ? `one of ${rule.name}` : rule.name;
  if (built?.failure != null) return `${place} gets nothing: the build would fail at once.`;
  const isOnWord = entranceOf(rule) === 'on-word';
  if (built?.known != null)
    return isOnWord
      ? `${place} is offered the bytes of build ${built.known.number}, without a build.`
      : `${place} takes the bytes of build ${built.known.number}, without a build.`;
  const how = merge.how === 'fast-forward' ? 'from this commit' : 'from the merge';
  return `A build ${how} ${isOnWord ? 'is offered to' : 'goes to'} ${place}.`;
}

function outsiders(pull: PullRequestRow): readonly string[] {
  return trustOf(pull.from) === 'outsider'
    ? ['An outsider’s code becomes the project’s own: it is given values from then on.']
    : [];
}
