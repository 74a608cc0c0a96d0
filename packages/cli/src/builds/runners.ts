import { type RunnerSeen, runnerRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { safe, table, tone, when } from '../output.ts';

/** Lists the runners: what they are labelled, what they do, and since when they are silent. */
export async function listRunners(context: Context): Promise<void> {
  give(context, await context.client.call(runnerRoutes.listRunnersRoute, {}), ({ runners }) =>
    show(context, runners),
  );
}

/** Makes a runner known and writes its token, once. */
export async function addRunner(context: Context, name: string): Promise<void> {
  const reply = await context.client.call(runnerRoutes.addRunnerRoute, { body: { name } });
  give(context, reply, ({ token }) => {
    context.io.out(token);
    context.io.err(
      `This is the token of ${name}; it is not shown again. Give it to the runner as VAQUERO_RUNNER_TOKEN, with VAQUERO_API and VAQUERO_STORE=elsewhere.`,
    );
  });
}

/** Lets a runner finish what it builds and gives it nothing more, or gives it builds again. */
export async function drainRunner(
  context: Context,
  name: string,
  draining: boolean,
): Promise<void> {
  const params = { runner: name };
  const reply = await context.client.call(runnerRoutes.setRunnerRoute, {
    params,
    body: { draining },
  });
  give(context, reply, (runner) => show(context, [runner]));
}

/** Takes a runner's token back. */
export async function dropRunner(context: Context, name: string): Promise<void> {
  await context.client.call(runnerRoutes.dropRunnerRoute, { params: { runner: name } });
  await listRunners(context);
}

function show({ io }: Context, runners: readonly RunnerSeen[]): void {
  if (runners.length === 0) {
    io.out('No runner is known. Make one known with: vaquero add-runner NAME');
    return;
  }
  io.out(
    table(
      io,
      ['runner', 'builds', 'state', 'labels', 'heard of'],
      runners.map((one) => [
        safe(one.name),
        `${one.building} of ${one.slots}`,
        stateOf(io, one),
        one.labels.join(', ') || 'none',
        one.heardAt === null ? 'never' : when(one.heardAt),
      ]),
      3,
    ),
  );
}

function stateOf(io: Context['io'], { present, draining, building, heardAt }: RunnerSeen): string {
  if (heardAt === null) return tone(io, 'quiet', 'never seen');
  if (!present) return tone(io, 'warn', 'silent');
  if (draining) return building > 0 ? 'draining' : 'drained';
  return tone(io, 'good', 'takes builds');
}
