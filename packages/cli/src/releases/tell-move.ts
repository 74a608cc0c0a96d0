import type { MoveReply } from '@vaquero/contracts';
import { type Context, EndedWith, give } from '../command.ts';
import { exitCodes } from '../exit-codes.ts';
import { lasting, spoken, tone } from '../output.ts';

/** Says what came of a move. Throws EndedWith where not every edge has confirmed it. */
export function tellMove(context: Context, project: string, reply: MoveReply): void {
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
  if (!reply.confirmed) throw new EndedWith(exitCodes.unconfirmed.code);
}
