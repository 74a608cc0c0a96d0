import type { EnvironmentSeen, WhyReply } from '@vaquero/contracts';
import {
  answersTo,
  type CommitId,
  type Deed,
  deeds,
  nameOfRef,
  type Reach,
  type RefName,
  readPullRequestName,
  readRefName,
  refOfPullRequest,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { buildsOfCommit } from '../builds/build-rows.ts';
import { openPullRequests } from '../changes/pull-request-rows.ts';
import { type EnvironmentRow, environmentByName } from '../environments/environment-rows.ts';
import { destinationFor } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { viewEnvironments } from '../views/view-environments.ts';
import { reachNow } from '../views/view-reach.ts';
import { proposedBy } from './prepare-moved.ts';

/**
 * Says where a ref goes, which rules say so, and what waits or stands in the way; of an environment, a person or a commit,
 * what the map says of them. Refuses: not-found.
 */
export async function answerWhy(deps: Deps, project: ProjectRow, said: string): Promise<WhyReply> {
  const refs = await refsKnown(deps.db, project.repositoryId);
  const ref = refSaid(said, refs);
  if (ref !== undefined && (refs.has(ref) || readPullRequestName(said) !== undefined))
    return whyOfRef(deps, project, ref, refs);
  const environment = await environmentByName(deps.db, project.id, said);
  if (environment?.ref != null) return whyOfRef(deps, project, environment.ref as RefName, refs);
  if (environment !== undefined) return whyOfEnvironment(deps, project, environment);
  const { people } = await reachNow(deps, project);
  const person = people.find(({ name }) => name === said);
  if (person !== undefined) return whyOfPerson(deps, project, person);
  if (/^[0-9a-f]{7,64}$/.test(said)) {
    const found = await whyOfCommit(deps, project, said);
    if (found !== null) return found;
  }
  // No such ref is there now; the rules answer all the same.
  if (ref !== undefined) return whyOfRef(deps, project, ref, refs);
  return refused({ code: 'not-found', what: 'ref', name: said });
}

async function whyOfRef(
  deps: Deps,
  project: ProjectRow,
  ref: RefName,
  refs: ReadonlyMap<RefName, CommitId>,
): Promise<WhyReply> {
  const [map, open, environments] = await Promise.all([
    mapOf(deps.db, project),
    openPullRequests(deps.db, project.repositoryId),
    viewEnvironments(deps, project),
  ]);
  const pull = open.find(({ number }) => refOfPullRequest(number) === ref);
  const proposed = proposedBy(pull);
  const destination = destinationFor(map, ref, proposed);
  const into = pull?.into ?? null;
  const own = environments.filter(
    ({ name, family }) =>
      (family === null && destination.rules.some((rule) => rule.name === name)) ||
      family?.ref === ref,
  );
  return {
    about: 'ref',
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
    waits: own.flatMap(inTheWay),
  };
}

/** What the map says of one environment: its rule, who may do what, and what is in its way. */
async function whyOfEnvironment(
  deps: Deps,
  project: ProjectRow,
  { name }: EnvironmentRow,
): Promise<WhyReply> {
  const [found] = await viewEnvironments(deps, project, (row) => row.name === name);
  if (found === undefined) return refused({ code: 'not-found', what: 'environment', name });
  const { people } = await reachNow(deps, project);
  const map = await mapOf(deps.db, project);
  const place = map.environments.findIndex((rule) => rule.name === found.name);
  const whoCan = (deed: Deed): readonly string[] =>
    people.flatMap((one) => (one.deeds[place]?.includes(deed) === true ? [one.shownAs] : []));
  return {
    ...nothingAbout,
    about: 'environment',
    name,
    why: `it ${found.rule}`,
    answers: deeds.flatMap((deed) => {
      const who = whoCan(deed);
      return who.length === 0 ? [] : [{ rule: deed, isMatch: true, why: who.join(', ') }];
    }),
    environments: [{ name, address: found.address, serves: found.serves?.build ?? null }],
    waits: [...inTheWay(found)],
  };
}

/** What somebody may do to each environment. */
async function whyOfPerson(
  deps: Deps,
  project: ProjectRow,
  { name, shownAs, role, deeds: own }: Reach['people'][number],
): Promise<WhyReply> {
  const map = await mapOf(deps.db, project);
  return {
    ...nothingAbout,
    about: 'person',
    name,
    why: `${shownAs} is ${role === 'operator' ? 'an' : 'a'} ${role} here`,
    answers: map.environments.map((rule, place) => {
      const may = own[place] ?? [];
      return { rule: rule.name, isMatch: may.length > 0, why: may.join(', ') || 'nothing' };
    }),
  };
}

/** What a commit became: its builds, and where their bytes are served. Null where none was built. */
async function whyOfCommit(deps: Deps, project: ProjectRow, hex: string): Promise<WhyReply | null> {
  const found = await buildsOfCommit(deps.db, project.id, hex);
  const [newest] = found;
  if (newest === undefined) return null;
  const environments = (await viewEnvironments(deps, project)).filter(({ serves }) =>
    found.some(({ artifact }) => artifact !== null && artifact === serves?.artifact),
  );
  return {
    ...nothingAbout,
    about: 'commit',
    name: newest.commitId.slice(0, 12),
    commit: newest.commitId,
    why: `“${newest.subject}” was built ${found.length === 1 ? 'once' : `${found.length} times`}`,
    answers: found.map(({ number, state, ref, artifact, aim }) => ({
      rule: `build ${number}`,
      isMatch: artifact !== null,
      why: `${state}, for ${nameOfRef(ref)}${aim === null ? '' : `: ${aim.why}`}`,
    })),
    environments: environments.map(({ name, address, serves }) => ({
      name,
      address,
      serves: serves?.build ?? null,
    })),
  };
}

const nothingAbout = {
  ref: null,
  commit: null,
  into: null,
  answers: [],
  environments: [],
  waits: [],
};

/** What stands in the way of an environment, or waits to come in. */
function inTheWay({ name, hold, waits, acceptsFrom }: EnvironmentSeen): readonly string[] {
  const held = hold === null ? [] : [`${name} is held by ${hold.by}: “${hold.reason}”`];
  if (waits.kind === 'offer')
    return [...held, `build ${waits.build} passed and waits for a word to go to ${name}`];
  if (waits.kind !== 'build') return held;
  return [
    ...held,
    waits.state === 'awaited'
      ? `build ${waits.build} passed, and enters ${name} once ${acceptsFrom} has served it`
      : `${name} waits for build ${waits.build}, ${waits.state}`,
  ];
}

/** The ref that is meant: a whole name, `pr-3`, a branch or a tag; a branch where none of them is there. */
function refSaid(said: string, refs: ReadonlyMap<RefName, CommitId>): RefName | undefined {
  const number = readPullRequestName(said);
  if (number !== undefined) return refOfPullRequest(number);
  const whole = readRefName(said);
  if (whole !== undefined) return whole;
  const [branch, tag] = [readRefName(`refs/heads/${said}`), readRefName(`refs/tags/${said}`)];
  return [branch, tag].find((ref) => ref !== undefined && refs.has(ref)) ?? branch;
}
