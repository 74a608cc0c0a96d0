import { type BuildReply, type BuildRow, buildRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { type Io, bytes, lasting, safe, spoken, table, tone, when } from '../output.ts';
import { follow } from './follow.ts';

/** Lists a project's newest builds. */
export async function listBuilds(context: Context, project: string, limit: number): Promise<void> {
  give(context, await context.client.call(buildRoutes.listBuildsRoute, { params: { project }, query: { limit } }), ({ builds }) => {
    const { io } = context;
    if (builds.length === 0) io.out('No build yet: it waits for the first commit.');
    else io.out(table(io, ['build', 'state', 'commit', 'what it brings', 'queued', 'took', 'artifact'], builds.map((build) => [
      String(build.number), stateOf(io, build.state), build.commit.id.slice(0, 12), safe(build.commit.subject), when(build.queuedAt),
      build.startedAt === null || build.endedAt === null ? '' : lasting(build.endedAt - build.startedAt), build.artifact === null ? '' : spoken(build.artifact.digest),
    ]), 3));
  });
}

/** Shows one build: its answer first, then its steps. */
export async function showBuild(context: Context, project: string, build: number): Promise<void> {
  give(context, await context.client.call(buildRoutes.showBuildRoute, { params: { project, build } }), (reply) => {
    for (const line of describe(context.io, reply)) context.io.out(line);
  });
}

/** Builds again: the newest commit, or that of an earlier build; follows it unless told otherwise. */
export async function buildAgain(context: Context, project: string, build: number | undefined, wait: boolean): Promise<void> {
  const row = await context.client.call(buildRoutes.buildAgainRoute, { params: { project }, body: build === undefined ? {} : { build } });
  if (wait && !context.json) {
    context.io.err(`Build ${row.number} of ${row.commit.id.slice(0, 12)} is ${row.state}.`);
    await follow(context, project, row.number);
  } else give(context, row, (made) => context.io.out(`Build ${made.number} of ${made.commit.id.slice(0, 12)} is ${made.state}.`));
}

/** A state's word in its colour. */
export function stateOf(io: Io, state: BuildRow['state']): string {
  return tone(io, state === 'passed' ? 'good' : state === 'failed' ? 'bad' : state === 'running' ? 'thread' : 'quiet', state);
}

/** The lines that say what a build is and, when it failed, why and what to do. */
export function describe(io: Io, build: BuildReply): readonly string[] {
  const took = build.startedAt === null || build.endedAt === null ? '' : ` after ${lasting(build.endedAt - build.startedAt)}`;
  const lines = [
    `Build ${build.number} ${stateOf(io, build.state)}${took}: ${safe(build.commit.subject)}`,
    `commit     ${build.commit.id.slice(0, 12)} by ${safe(build.commit.author)}, ${build.cause}`,
    `goes to    ${build.destination}`,
  ];
  if (build.failure !== null) {
    lines.push(`what       ${tone(io, 'bad', build.failure.what)}`);
    if (build.tellingLine !== null) lines.push(`line ${String(build.tellingLine.number).padEnd(6)}${safe(build.tellingLine.text)}`);
    lines.push(`why        ${build.failure.why}`, `next       ${build.failure.next}`);
    for (const file of build.lastGood?.changed.slice(0, 8) ?? []) lines.push(`changed    ${safe(file.path)} +${file.added ?? '?'} -${file.removed ?? '?'} since build ${build.lastGood?.number}`);
  }
  if (build.place !== null) lines.push(`queue      ${build.place.ahead} ahead`);
  for (const step of build.steps) {
    const time = step.startedAt === null ? '' : lasting((step.endedAt ?? Date.now()) - step.startedAt);
    lines.push(`${step.name.padEnd(10)} ${time.padStart(8)}   ${tone(io, step.state === 'failed' ? 'bad' : 'quiet', step.state.padEnd(8))}  ${safe(step.says)}`);
  }
  if (build.artifact !== null) {
    lines.push(`artifact   ${spoken(build.artifact.digest)}, ${build.artifact.files} files, ${bytes(build.artifact.bytes)}`);
    for (const address of build.addresses.toReversed()) lines.push(`answers at ${address}`);
    lines.push(`live in    ${build.live.join(', ') || 'no environment'}`);
  }
  return lines;
}
