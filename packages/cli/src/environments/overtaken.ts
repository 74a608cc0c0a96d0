import { environmentRoutes } from '@vaquero/contracts';
import { type Context, give, Misuse } from '../command.ts';

/** Says what a newer commit does to an older one's build that has not ended. */
export async function setOvertaken(
  context: Context,
  project: string,
  environment: string,
  wish: string,
): Promise<void> {
  if (wish !== 'stop' && wish !== 'finish')
    throw new Misuse(`"${wish}" is neither stop nor finish.`);
  const reply = await context.client.call(environmentRoutes.setOvertakenRoute, {
    params: { project, environment },
    body: { overtaken: wish },
  });
  give(context, reply, ({ overtaken }) =>
    context.io.out(
      overtaken === 'stop'
        ? `A newer commit that ${environment} wants now ends the build of the older one.`
        : `Builds for ${environment} finish, whatever is pushed meanwhile.`,
    ),
  );
}
