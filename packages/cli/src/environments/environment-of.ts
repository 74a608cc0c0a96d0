import { type EnvironmentSeen, environmentRoutes } from '@vaquero/contracts';
import { type Context, NotDone } from '../command.ts';

/** Environments of a project as they are now, the top first, and the one that is meant: the top, unless one is named. */
export async function environmentOf(
  context: Context,
  project: string,
  named: string | undefined,
): Promise<{ target: EnvironmentSeen; all: readonly EnvironmentSeen[] }> {
  const { environments: all } = await context.client.call(environmentRoutes.lanesRoute, {
    params: { project },
    query: { days: 1 },
  });
  const target = named === undefined ? all[0] : all.find(({ name }) => name === named);
  if (target === undefined)
    throw new NotDone(
      named === undefined
        ? `${project} has no environment.`
        : `${project} has no environment "${named}": it has ${all.map(({ name }) => name).join(', ')}.`,
    );
  return { target, all };
}
