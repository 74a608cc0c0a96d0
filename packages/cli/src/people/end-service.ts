import { serviceRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Ends a service with all of its tokens, or one token of it. */
export const endService = command({
  name: 'end-service',
  says: 'end a service and its tokens, or one token of it',
  examples: ['end-service timetable quay-board', 'end-service tides night --only 7'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<service>', 'a service of it')
      .option('--only <id>', 'this token alone, as vaquero services shows it'),
  run: async (context, [project, service], { only: token }) => {
    const params = { project, service };
    const reply =
      token === undefined
        ? await context.client.call(serviceRoutes.endServiceRoute, { params })
        : await context.client.call(serviceRoutes.endServiceTokenRoute, {
            params: { ...params, token },
          });
    give(context, reply, () =>
      context.io.out(
        token === undefined
          ? `${service} has ended; its tokens open nothing any more.`
          : `The token ${token} is taken back.`,
      ),
    );
  },
});
