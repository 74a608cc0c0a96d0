import { projectRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showProject } from './show-project.ts';

/** Reads a repository's refs now. */
export const look = command({
  name: 'look',
  says: 'read the repository’s refs now',
  examples: ['look timetable'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const seen = await context.client.call(projectRoutes.lookRoute, { params: { project } });
    give(context, seen, () => showProject(context.io, seen));
  },
});
