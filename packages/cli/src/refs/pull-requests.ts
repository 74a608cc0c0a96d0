import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { stateOf } from '../builds/describe-build.ts';
import { type Context, confirmed, give, Misuse } from '../command.ts';
import { type Io, safe, spoken, table, tone, when } from '../output.ts';

/** Lists the pull requests of a project: open ones first. */
export async function listPullRequests(context: Context, project: string): Promise<void> {
  give(
    context,
    await context.client.call(pullRequestRoutes.listPullRequestsRoute, { params: { project } }),
    ({ pullRequests: all }) => {
      const { io } = context;
      if (all.length === 0)
        io.out(`No pull request yet. Open one: vaquero open-pull-request ${project} BRANCH`);
      else
        io.out(
          table(
            io,
            ['name', 'state', 'head', 'what it is about', 'from', 'how it stands'],
            all.map((one) => [
              one.name,
              tone(io, one.state === 'merged' ? 'good' : 'quiet', one.state),
              one.head?.commit.slice(0, 12) ?? '',
              safe(one.title),
              `${safe(one.from.branch)}${one.outsider ? tone(io, 'warn', ', an outsider’s') : ''}`,
              safe(one.says),
            ]),
            3,
          ),
        );
    },
  );
}

/** Shows one pull request. */
export async function showPullRequest(
  context: Context,
  project: string,
  name: string,
): Promise<void> {
  give(context, await read(context, project, name), (one) => tell(context.io, project, one));
}

/** Opens a pull request and says how it stands. */
export async function openPullRequest(
  context: Context,
  project: string,
  branch: string,
  {
    into,
    place,
    title,
  }: { readonly into?: string; readonly place?: string; readonly title?: string },
): Promise<void> {
  give(
    context,
    await context.client.call(pullRequestRoutes.openPullRequestRoute, {
      params: { project },
      body: {
        branch,
        title: title ?? branch,
        place: place ?? null,
        ...(into === undefined ? {} : { into }),
      },
    }),
    (one) => tell(context.io, project, one),
  );
}

/** Gives one's word for the commit that was looked at: the newest one, unless it is named. */
export async function giveWord(
  context: Context,
  project: string,
  name: string,
  named: string | undefined,
): Promise<void> {
  const seen = await read(context, project, name);
  const head = seen.head;
  if (head === null) throw new Misuse(`${name} has no commit yet.`);
  // A short id stands for the newest commit only: a word for any other is refused by the service, whole.
  const isHead = named === undefined || head.commit.startsWith(named);
  if (!isHead && !/^[0-9a-f]{40,64}$/.test(named))
    throw new Misuse(`${named} is not the newest commit of ${name}, which is ${head.commit}.`);
  const commit = isHead
    ? head.commit
    : (named as PullRequestReply['builds'][number]['commit']['id']);
  const question = `Build ${commit.slice(0, 12)} “${safe(head.subject)}” by ${safe(head.author)}, code of an outsider? It gets no values, no caches and no results of others.`;
  if (!(await confirmed(context, question))) return context.io.out('Nothing is built.');
  give(
    context,
    await context.client.call(pullRequestRoutes.giveWordRoute, {
      params: { project, pullRequest: name },
      body: { commit },
    }),
    (one) => tell(context.io, project, one),
  );
}

/** Closes a pull request. */
export async function closePullRequest(
  context: Context,
  project: string,
  name: string,
): Promise<void> {
  give(
    context,
    await context.client.call(pullRequestRoutes.closePullRequestRoute, {
      params: { project, pullRequest: name },
    }),
    (one) => context.io.out(`${one.name} is ${one.state}. What was built of it stays.`),
  );
}

function read(context: Context, project: string, name: string): Promise<PullRequestReply> {
  return context.client.call(pullRequestRoutes.showPullRequestRoute, {
    params: { project, pullRequest: name },
  });
}

function tell(io: Io, project: string, one: PullRequestReply): void {
  for (const line of [
    `${one.name} ${one.state}: ${safe(one.title)}`,
    `merges     ${safe(one.from.branch)}${one.from.place === null ? '' : ` of ${safe(one.from.place)}`} into ${safe(one.into)}${one.ahead === null ? '' : `, ${one.ahead} ${one.ahead === 1 ? 'commit' : 'commits'} ahead`}`,
    ...(one.outsider
      ? [tone(io, 'warn', 'outsider   no values, no caches, no results of others for its builds')]
      : []),
    ...whatItBrings(io, one),
    ...(one.word === null ? [] : [`word       ${safe(one.word.by)}, ${when(one.word.at)}`]),
    ...(one.trouble === null ? [] : [tone(io, 'bad', `not read   ${safe(one.trouble)}`)]),
    `stands     ${safe(one.says)}`,
    ...one.builds.map(
      (build) =>
        `build ${String(build.number).padEnd(5)}${stateOf(io, build.state)}, ${build.recipeName}${build.artifact === null ? '' : `, ${spoken(build.artifact.digest)}`}`,
    ),
    ...nextFor(project, one),
  ])
    io.out(line);
}

function whatItBrings(io: Io, { head, commits, files }: PullRequestReply): readonly string[] {
  const more = files.length > 12 ? [`           and ${files.length - 12} more files`] : [];
  return [
    ...(head === null
      ? []
      : [
          `head       ${head.commit.slice(0, 12)} “${safe(head.subject)}” by ${safe(head.author)}, ${when(head.at)}`,
        ]),
    ...commits
      .slice(1, 6)
      .map(({ id, subject, author }) =>
        tone(io, 'quiet', `           ${id.slice(0, 12)} “${safe(subject)}” by ${safe(author)}`),
      ),
    ...files
      .slice(0, 12)
      .map((file) => `changes    ${safe(file.path)} +${file.added ?? '?'} -${file.removed ?? '?'}`),
    ...more,
  ];
}

function nextFor(project: string, one: PullRequestReply): readonly string[] {
  const waits = one.outsider && one.state === 'open' && one.word === null && one.head !== null;
  if (!waits) return [];
  const { place, branch } = one.from;
  return [
    `next       Read it: git fetch ${safe(place ?? 'origin')} ${safe(branch)} && git diff ${safe(one.into)}...FETCH_HEAD`,
    `           Then: vaquero give-word ${project} ${one.name}`,
  ];
}
