import { buildRoutes } from '@vaquero/contracts';
import { type Context, command, NotDone, whole } from '../command.ts';
import { followBuild } from './follow-build.ts';

/** Follows a build that is named, or the newest one. */
export const follow = command({
  name: 'follow',
  says: 'a build’s log as it comes, then how it ended',
  examples: ['follow timetable', 'follow timetable 218'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[number]', 'the build; the newest otherwise', whole),
  run: async (context, [project, number]) =>
    followBuild(context, project, number ?? (await newest(context, project))),
});

async function newest(context: Context, project: string): Promise<number> {
  const { builds } = await context.client.call(buildRoutes.listBuildsRoute, {
    params: { project },
    query: { limit: 1 },
  });
  if (builds[0] === undefined)
    throw new NotDone(`${project} has no build yet: push a commit first.`);
  return builds[0].number;
}
