import type { mapRoutes } from '@vaquero/contracts';
import {
  answersTo,
  type CommitId,
  nameOfRef,
  type RefName,
  readPullRequestName,
  readRefName,
  refOfPullRequest,
  trustOf,
} from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../deps.ts';
import { environmentByName } from '../environments/environment-rows.ts';
import { viewEnvironments } from '../environments/view-environments.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { openPullRequests } from '../refs/pull-request-rows.ts';
import { refused } from '../refused.ts';
import { destinationFor } from './aim.ts';
import { mapOf } from './map-rows.ts';

type Why = z.output<typeof mapRoutes.whyRoute.reply>;

/** Says where a ref goes, which rules say so, and what waits or stands in the way. */
export async function answerWhy(deps: Deps, project: ProjectRow, said: string): Promise<Why> {
  const [map, refs, open, environments] = await Promise.all([
    mapOf(deps.db, project),
    refsKnown(deps.db, project.repositoryId),
    openPullRequests(deps.db, project.repositoryId),
    viewEnvironments(deps, project),
  ]);
  const ref = await refSaid(deps, project, said, refs);
  const pull = open.find(({ number }) => refOfPullRequest(number) === ref);
  const proposed = pull === undefined ? null : { into: pull.into, trust: trustOf(pull.from) };
  const destination = destinationFor(map, ref, proposed);
  const into = pull?.into ?? null;
  const own = environments.filter(
    ({ name, family }) =>
      (family === null && destination.rules.some((rule) => rule.name === name)) ||
      family?.ref === ref,
  );
  return {
    ref,
    name: nameOfRef(ref),
    commit: refs.get(ref) ?? null,
    into,
    why: destination.why,
    answers: [...answersTo(map, ref, into)],
    environments: own.map(({ name, address, serves }) => ({
      name,
      address,
      serves: serves?.build ?? null,
    })),
    waits: own.flatMap(({ name, hold, waits, acceptsFrom }) => [
      ...(hold === null ? [] : [`${name} is held by ${hold.by}: “${hold.reason}”`]),
      ...(waits.kind === 'offer'
        ? [`build ${waits.build} passed and waits for a word to go to ${name}`]
        : []),
      ...(waits.kind === 'build' && waits.state === 'awaited'
        ? [`build ${waits.build} passed, and enters ${name} once ${acceptsFrom} has served it`]
        : []),
      ...(waits.kind === 'build' && waits.state !== 'awaited'
        ? [`${name} waits for build ${waits.build}, ${waits.state}`]
        : []),
    ]),
  };
}

/** The ref that is meant: a whole name, `pr-3`, a branch, a tag, or an environment of a family. Refuses: not-found. */
async function refSaid(
  deps: Deps,
  project: ProjectRow,
  said: string,
  refs: ReadonlyMap<RefName, CommitId>,
): Promise<RefName> {
  const number = readPullRequestName(said);
  if (number !== undefined) return refOfPullRequest(number);
  const whole = readRefName(said);
  if (whole !== undefined) return whole;
  const [branch, tag] = [readRefName(`refs/heads/${said}`), readRefName(`refs/tags/${said}`)];
  const there = [branch, tag].find((ref) => ref !== undefined && refs.has(ref));
  if (there !== undefined) return there;
  const environment = await environmentByName(deps.db, project.id, said);
  if (environment?.ref != null) return environment.ref as RefName;
  return branch ?? refused({ code: 'not-found', what: 'ref', name: said });
}
