import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { authorInWords } from '@vaquero/core';
import { stateOf } from '../builds/describe-build.ts';
import type { Context } from '../command.ts';
import type { Io } from '../io.ts';
import { safe, spoken, tone, when } from '../output.ts';
import { mergeInWords } from './merge-in-words.ts';

/** One pull request as the service has it. */
export function readPullRequest(
  context: Context,
  project: string,
  name: string,
): Promise<PullRequestReply> {
  return context.client.call(pullRequestRoutes.showPullRequestRoute, {
    params: { project, pullRequest: name },
  });
}

/** Says what a pull request brings, what was built of it and what to do next. */
export function showPullRequest(io: Io, project: string, one: PullRequestReply): void {
  for (const line of [
    `${one.name} ${one.state}${one.isDraft ? ', a draft' : ''}: ${safe(one.title)}`,
    `merges     ${safe(one.from.branch)}${one.from.place === null ? '' : ` of ${safe(one.from.place)}`} into ${safe(one.into)}${one.ahead === null ? '' : `, ${one.ahead} ${one.ahead === 1 ? 'commit' : 'commits'} ahead`}`,
    ...(one.outsider
      ? [tone(io, 'warn', 'outsider   no values, no caches, no results of others for its builds')]
      : []),
    ...whatItBrings(io, one),
    ...(one.word === null ? [] : [`word       ${safe(one.word.by)}, ${when(one.word.at)}`]),
    ...(one.trouble === null ? [] : [tone(io, 'bad', `not read   ${safe(one.trouble)}`)]),
    `stands     ${safe(one.says)}`,
    ...previewInWords(one),
    ...verdictsInWords(one),
    ...mergeInWords(one),
    ...one.builds.map(
      (build) =>
        `build ${String(build.number).padEnd(5)}${stateOf(io, build.state)}, ${build.recipeName}${build.artifact === null ? '' : `, ${spoken(build.artifact.digest)}`}`,
    ),
    ...nextFor(project, one),
  ])
    io.out(line);
}

function previewInWords({ preview, seenAt }: PullRequestReply): readonly string[] {
  if (preview === null)
    return seenAt === null
      ? []
      : [`preview    ${seenAt.address}, build ${seenAt.build} of an outsider, for members`];
  const { address, build, endsAt } = preview;
  const serves = build === null ? 'which waits for its first build' : `build ${build}`;
  return [`preview    ${address}, ${serves}${endsAt === null ? '' : `, until ${when(endsAt)}`}`];
}

function verdictsInWords({ verdicts }: PullRequestReply): readonly string[] {
  return verdicts.map(
    ({ by, verdict, says, isOfHead, commit, at }) =>
      `verdict    ${safe(by)}: ${verdict === 'looks-right' ? 'looks right' : 'not yet'}${says === '' ? '' : `, “${safe(says)}”`}, ${isOfHead ? when(at) : `of ${commit.slice(0, 12)}, a commit before`}`,
  );
}

function whatItBrings(io: Io, { head, commits, files }: PullRequestReply): readonly string[] {
  const more = files.length > 12 ? [`           and ${files.length - 12} more files`] : [];
  return [
    ...(head === null
      ? []
      : [
          `head       ${head.commit.slice(0, 12)} “${safe(head.subject)}” by ${safe(authorInWords(head))}, ${when(head.at)}`,
        ]),
    ...commits
      .slice(1, 6)
      .map((commit) =>
        tone(
          io,
          'quiet',
          `           ${commit.id.slice(0, 12)} “${safe(commit.subject)}” by ${safe(authorInWords(commit))}`,
        ),
      ),
    ...files
      .slice(0, 12)
      .map((file) => `changes    ${safe(file.path)} +${file.added ?? '?'} -${file.removed ?? '?'}`),
    ...more,
  ];
}

function nextFor(project: string, one: PullRequestReply): readonly string[] {
  const waits = one.takesWord && one.state === 'open' && one.word === null && one.head !== null;
  if (!waits) return [];
  const { place, branch } = one.from;
  return [
    `next       Read it: git fetch ${safe(place ?? 'origin')} ${safe(branch)} && git diff ${safe(one.into)}...FETCH_HEAD`,
    `           Then: vaquero give-word ${project} ${one.name}`,
  ];
}
