import { buildRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { lasting, safe, spoken, table, when } from '../output.ts';
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
      else
        io.out(
          table(
            io,
            ['build', 'state', 'commit', 'what it brings', 'queued', 'took', 'artifact'],
            builds.map((build) => [
              String(build.number),
              stateOf(io, build.state),
              build.commit.id.slice(0, 12),
              safe(build.commit.subject),
              when(build.queuedAt),
              build.startedAt === null || build.endedAt === null
                ? ''
                : lasting(build.endedAt - build.startedAt),
              build.artifact === null ? '' : spoken(build.artifact.digest),
            ]),
            3,
          ),
        );
    },
  );
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
  wait: boolean,
): Promise<void> {
  const row = await context.client.call(buildRoutes.buildAgainRoute, {
    params: { project },
    body: build === undefined ? {} : { build },
  });
  if (wait && !context.json) {
    context.io.err(`Build ${row.number} of ${row.commit.id.slice(0, 12)} is ${row.state}.`);
    await follow(context, project, row.number);
  } else
    give(context, row, (made) =>
      context.io.out(`Build ${made.number} of ${made.commit.id.slice(0, 12)} is ${made.state}.`),
    );
}
