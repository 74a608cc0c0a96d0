import { type BuildRow, buildRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { lasting, safe, spoken, table, tone, when } from '../output.ts';
import { describe, stateOf } from './describe-build.ts';
import { follow } from './follow.ts';

/** Lists a project's newest builds. */
export async function listBuilds(context: Context, project: string, limit: number): Promise<void> {
  give(
    context,
    await context.client.call(buildRoutes.listBuildsRoute, {
      params: { project },
      query: { limit },
    }),
    ({ builds }) => {
      const { io } = context;
      if (builds.length === 0) io.out('No build yet: it waits for the first commit.');
      else io.out(buildTable(io, builds, null));
    },
  );
}

/** Finds builds by what is known of them, and says where their artifacts are live. */
export async function findBuilds(context: Context, project: string, text: string): Promise<void> {
  give(
    context,
    await context.client.call(buildRoutes.findBuildsRoute, {
      params: { project },
      query: { text },
    }),
    ({ builds }) => {
      const { io } = context;
      const servedBy = new Map(builds.map((build) => [build.number, build.servedBy]));
      if (builds.length === 0)
        io.out(
          `No build of ${project} has “${safe(text)}” as number, commit, digest, brand, subject or author.`,
        );
      else io.out(buildTable(io, builds, servedBy));
    },
  );
}

function buildTable(
  io: Context['io'],
  builds: readonly BuildRow[],
  servedBy: ReadonlyMap<number, readonly string[]> | null,
): string {
  return table(
    io,
    [
      ...['build', 'state', 'commit', 'what it brings', 'queued', 'took', 'artifact'],
      ...(servedBy === null ? [] : ['live in']),
    ],
    builds.map((build) => [
      String(build.number),
      [stateOf(io, build.state), ...build.marks.map((mark) => tone(io, 'warn', mark))].join(', '),
      build.commit.id.slice(0, 12),
      [whichOf(build), safe(build.commit.subject)].filter((part) => part !== '').join(': '),
      when(build.queuedAt),
      build.reusedFrom !== null
        ? 'not run'
        : build.startedAt === null || build.endedAt === null
          ? ''
          : lasting(build.endedAt - build.startedAt),
      build.artifact === null ? '' : spoken(build.artifact.digest),
      ...(servedBy === null
        ? []
        : [tone(io, 'good', (servedBy.get(build.number) ?? []).join(', '))]),
    ]),
    3,
  );
}

/** What tells a build from the usual one of its commit: its recipe, and the pull request that it belongs to. */
function whichOf({ recipeName, pullRequest }: BuildRow): string {
  const recipe = recipeName === 'site' ? [] : [recipeName];
  return [...recipe, ...(pullRequest === null ? [] : [pullRequest.name])].join(', ');
}

/** Shows one build: its answer first, then its steps. */
export async function showBuild(context: Context, project: string, build: number): Promise<void> {
  give(
    context,
    await context.client.call(buildRoutes.showBuildRoute, { params: { project, build } }),
    (reply) => {
      for (const line of describe(context.io, reply)) context.io.out(line);
    },
  );
}

/** Builds again: the newest commit, or that of an earlier build; follows it unless told otherwise. */
export async function buildAgain(
  context: Context,
  project: string,
  build: number | undefined,
  {
    wait,
    ...wish
  }: {
    readonly wait: boolean;
    readonly earlier: 'used' | 'left' | 'compared';
    readonly meant: boolean;
  },
): Promise<void> {
  const row = await context.client.call(buildRoutes.buildAgainRoute, {
    params: { project },
    body: { ...wish, ...(build === undefined ? {} : { build }) },
  });
  if (wait && !context.json) {
    context.io.err(`Build ${row.number} of ${row.commit.id.slice(0, 12)} is ${row.state}.`);
    await follow(context, project, row.number);
  } else
    give(context, row, (made) =>
      context.io.out(`Build ${made.number} of ${made.commit.id.slice(0, 12)} is ${made.state}.`),
    );
}

/** Ends a build that waits or runs. */
export async function cancelBuild(context: Context, project: string, build: number): Promise<void> {
  const row = await context.client.call(buildRoutes.cancelBuildRoute, {
    params: { project, build },
  });
  give(context, row, () => context.io.out(`Build ${row.number} is ${row.state}. Nothing moved.`));
}

/** Writes lines of a build's log: of one step, or those that hold a text. */
export async function findLines(
  context: Context,
  project: string,
  build: number,
  wanted: { readonly step?: string; readonly find?: string },
): Promise<void> {
  const reply = await context.client.call(buildRoutes.logLinesRoute, {
    params: { project, build },
    query: { ...wanted, limit: 5000 },
  });
  give(context, reply, ({ lines, more }) => {
    const { io } = context;
    const width = Math.max(0, ...lines.map((line) => line.step.length));
    for (const line of lines)
      io.out(
        `${String(line.number).padStart(6)} ${tone(io, 'quiet', line.step.padEnd(width))}  ${safe(line.text)}`,
      );
    if (more) io.err('There are more: narrow it by --step or --find.');
    if (lines.length === 0) io.err('No line.');
  });
}
