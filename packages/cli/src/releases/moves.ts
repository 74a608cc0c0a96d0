import {
  buildRoutes,
  type EnvironmentSeen,
  environmentRoutes,
  findingsOf,
  type MoveReply,
} from '@vaquero/contracts';
import { findingCounts, findingInWords } from '@vaquero/core';
import { type Context, confirmed, EndedWith, give, Misuse, unconfirmed } from '../command.ts';
import { lasting, safe, spoken, tone, when } from '../output.ts';

/** An environment as it is now: what the person sees before deciding. */
async function lookAt(
  context: Context,
  project: string,
  name: string,
): Promise<{ target: EnvironmentSeen; all: readonly EnvironmentSeen[] }> {
  const lanes = await context.client.call(environmentRoutes.lanesRoute, {
    params: { project },
    query: { days: 1 },
  });
  const target = lanes.environments.find((environment) => environment.name === name);
  if (target === undefined)
    throw new Misuse(
      `${project} has no environment "${name}": it has ${lanes.environments.map((each) => each.name).join(', ')}`,
    );
  return { target, all: lanes.environments };
}

/** Promotes what another environment serves, after saying what will change. */
export async function promote(
  context: Context,
  project: string,
  to: string,
  reason: string | undefined,
): Promise<void> {
  const { io } = context;
  const { target, all } = await lookAt(context, project, to);
  const from = target.acceptsFrom ?? 'staging';
  const source = all.find((environment) => environment.name === from);
  const moving = source?.serves ?? null;
  if (moving === null) throw new Misuse(`${from} serves nothing yet: push a commit first`);
  io.err(
    `Promote build ${moving.build} ${spoken(moving.artifact)} “${safe(moving.subject)}” from ${from} to ${to}.`,
  );
  io.err(
    target.serves === null
      ? `${to} serves nothing yet.`
      : `${to} serves build ${target.serves.build} ${spoken(target.serves.artifact)} “${safe(target.serves.subject)}” since ${when(target.serves.committedAt)}; going back to it takes one command.`,
  );
  for (const line of await whatItLetsIn(context, project, moving.build)) io.err(line);
  if (!(await confirmed(context, `Promote ${moving.build} to ${to}?`)))
    return void io.err('Nothing was changed.');
  const reply = await context.client.call(environmentRoutes.promoteRoute, {
    params: { project, environment: to },
    body: {
      from,
      artifact: moving.artifact,
      seen: { generation: target.generation, artifact: target.serves?.artifact ?? null },
      ...(reason === undefined ? {} : { reason }),
    },
  });
  tellMove(context, project, reply);
}

/** What stands against a build, the worst first: seen before it goes on, not after. */
async function whatItLetsIn(
  context: Context,
  project: string,
  build: number,
): Promise<readonly string[]> {
  const { evidence } = await context.client.call(buildRoutes.showBuildRoute, {
    params: { project, build },
  });
  const findings = findingsOf(evidence);
  if (findings.length === 0) return ['Nothing was found against it.'];
  const left = findings.length - mostNamed;
  return [
    `It lets in ${findingCounts(findings)}:`,
    ...findings
      .slice(0, mostNamed)
      .map((one) => `  ${one.severity.padEnd(9)}${safe(findingInWords(one))}`),
    ...(left > 0 ? [`  and ${left} more: vaquero build ${project} ${build}`] : []),
  ];
}

const mostNamed = 5;

/** Where to go back to: a deploy, a build, or (nothing given) the latest good one. */
export interface Wish {
  readonly deploy?: number | undefined;
  readonly build?: number | undefined;
}

/** Rolls an environment back, after saying what it undoes; it is held afterwards. */
export async function rollBack(
  context: Context,
  project: string,
  environment: string,
  wish: Wish,
  reason: string | undefined,
): Promise<void> {
  const { io } = context;
  if (wish.deploy !== undefined && wish.build !== undefined)
    throw new Misuse('Name a deploy or a build to go back to, not both');
  const { target } = await lookAt(context, project, environment);
  if (target.serves === null)
    throw new Misuse(`${environment} serves nothing yet: there is nothing to go back from`);
  const to =
    wish.deploy !== undefined
      ? { deploy: wish.deploy }
      : wish.build !== undefined
        ? { build: wish.build }
        : undefined;
  const goal =
    to === undefined
      ? target.wayBack === null
        ? 'an earlier deploy'
        : `build ${target.wayBack.build} ${spoken(target.wayBack.artifact)} “${safe(target.wayBack.subject)}”`
      : 'deploy' in to
        ? `deploy ${to.deploy}`
        : `build ${to.build}`;
  io.err(
    `Roll ${environment} back from build ${target.serves.build} ${spoken(target.serves.artifact)} “${safe(target.serves.subject)}” to ${goal}.`,
  );
  io.err(
    `${environment} is held afterwards: nothing goes live there until somebody lifts the hold.`,
  );
  const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
  if (why.trim() === '')
    throw new Misuse(
      'A roll back takes a reason: --reason "…". It stands in the history and on the hold.',
    );
  if (!(await confirmed(context, `Roll ${environment} back?`)))
    return void io.err('Nothing was changed.');
  const reply = await context.client.call(environmentRoutes.rollBackRoute, {
    params: { project, environment },
    body: {
      reason: why,
      seen: { generation: target.generation, artifact: target.serves.artifact },
      ...(to === undefined ? {} : { to }),
    },
  });
  tellMove(context, project, reply);
}

/** Lifts the hold of an environment. */
export async function liftHold(
  context: Context,
  project: string,
  environment: string,
): Promise<void> {
  const { target } = await lookAt(context, project, environment);
  if (target.hold !== null)
    context.io.err(
      `${environment} is held since ${when(target.hold.since)} by ${target.hold.by}: “${safe(target.hold.reason)}”.`,
    );
  if (target.hold !== null && target.acceptsFrom === null && target.waits.kind === 'build')
    context.io.err(`Build ${target.waits.build} goes live by itself once the hold is lifted.`);
  if (!(await confirmed(context, `Lift the hold of ${environment}?`)))
    return void context.io.err('Nothing was changed.');
  const reply = await context.client.call(environmentRoutes.liftHoldRoute, {
    params: { project, environment },
    body: { generation: target.generation },
  });
  give(context, reply, () =>
    context.io.out(
      `The hold of ${environment} is lifted. ${target.acceptsFrom === null ? 'New commits go live again.' : 'It may be promoted to again.'}`,
    ),
  );
}

function tellMove(context: Context, project: string, reply: MoveReply): void {
  const { io } = context;
  give(context, reply, () => {
    const { deploy, ms } = reply;
    // Without a time it is the answer to a call that was carried out before.
    const after = ms === null ? '' : ` after ${lasting(ms.prepare + ms.commit + ms.confirm)}`;
    io.out(
      `${reply.environment} serves build ${deploy.build} ${spoken(deploy.artifact)} since ${new Date(deploy.committedAt).toISOString()}: deploy ${deploy.number}, ${reply.confirmed ? tone(io, 'good', `confirmed${after}`) : tone(io, 'warn', `committed, not confirmed${after}`)}.`,
    );
    io.out(
      ms === null
        ? reply.address
        : `prepare ${lasting(ms.prepare)}, commit ${lasting(ms.commit)}, confirm ${lasting(ms.confirm)}; ${reply.address}`,
    );
    if (deploy.undoes !== null)
      io.out(
        `Undone: deploy ${deploy.undoes.first === deploy.undoes.last ? deploy.undoes.first : `${deploy.undoes.first} to ${deploy.undoes.last}`}. ${reply.environment} is held; lift it with: vaquero lift-hold ${project} ${reply.environment}`,
      );
    for (const edge of reply.unheard)
      io.out(
        tone(
          io,
          'warn',
          `Not heard from: ${edge.edge}; it may still serve ${edge.mayServe === null ? 'nothing' : spoken(edge.mayServe)}.`,
        ),
      );
  });
  if (!reply.confirmed) throw new EndedWith(unconfirmed);
}
