import type { PullRequestReply } from '@vaquero/contracts';
import {
  type CommitId,
  destinationOf,
  entranceOf,
  type Family,
  type Following,
  type Proposed,
  type RefName,
  refOfBranch,
  refOfPullRequest,
  spanInWords,
  trustOf,
  whyInputsDiffer,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { mayPublish, type PreparedBuild, prepareBuilds } from '../builds/prepare-builds.ts';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { type ProjectRow, refsKnown, repositoryById } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { type Merge, mergeOf } from '../repositories/merge-commits.ts';
import { proposedBy } from './prepare-moved.ts';

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
  const isSameCommit = merge.how === 'fast-forward' && pull.head !== null;
  const [built, before] =
    isSameCommit && pull.head !== null
      ? await Promise.all([
          builtFor(deps, project, ref, pull.head, null),
          builtFor(deps, project, own, pull.head, proposedBy(pull)),
        ])
      : [[], []];
  return [
    ...rules.map((rule) => followsIn(rule, merge, built, before)),
    ...ends,
    ...outsiders(pull),
  ];
}

/** A fast-forward brings the very commit that is there: what its builds would be is known beforehand. */
async function builtFor(
  deps: Deps,
  project: ProjectRow,
  ref: RefName,
  head: CommitId,
  proposed: Proposed | null,
): Promise<readonly PreparedBuild[]> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  return (await prepareBuilds(deps, directory, project, head, ref, false, proposed)).filter(
    mayPublish,
  );
}

function followsIn(
  rule: Following | Family,
  merge: Merge,
  builds: readonly PreparedBuild[],
  before: readonly PreparedBuild[],
): string {
  const built = builds.find(({ destination }) =>
    destination.rules.some(({ name }) => name === rule.name),
  );
  const place = rule.kind === 'each' ? `one of ${rule.name}` : rule.name;
  if (built !== undefined && built.failure !== null)
    return `${place} gets nothing: the build would fail at once.`;
  const isOnWord = entranceOf(rule) === 'on-word';
  if (built !== undefined && built.known !== null)
    return isOnWord
      ? `${place} is offered the bytes of build ${built.known.number}, without a build.`
      : `${place} takes the bytes of build ${built.known.number}, without a build.`;
  const how = merge.how === 'fast-forward' ? 'from this commit' : 'from the merge';
  const why = builtAnewAs(built, before, rule);
  return `A build ${how} ${isOnWord ? 'is offered to' : 'goes to'} ${place}${why}.`;
}

/** Why the bytes of what was built for the pull request are not taken over; nothing where they would be, once they are there. */
function builtAnewAs(
  built: PreparedBuild | undefined,
  before: readonly PreparedBuild[],
  { name }: Following | Family,
): string {
  const all = before.map(({ inputs }) =>
    inputs === null || built?.inputs == null ? [] : whyInputsDiffer(inputs, built.inputs, name),
  );
  const [least] = all.sort((one, other) => one.length - other.length);
  return least === undefined || least.length === 0 ? '' : `, as ${least.join(' and ')}`;
}

function outsiders(pull: PullRequestRow): readonly string[] {
  return trustOf(pull.from) === 'outsider'
    ? ['An outsider’s code becomes the project’s own: it is given values from then on.']
    : [];
}
