import { everyProject, type ProjectSeen } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, table, when } from '../output.ts';

/** Lists the projects one may see. */
export const projects = command({
  name: 'projects',
  says: 'the projects you may see',
  examples: ['projects'],
  takes: (bare) => bare,
  run: async (context) => {
    const { io } = context;
    const reply = await everyProject(context.client);
    give(context, reply, ({ projects: all }) => {
      if (all.length === 0) io.out('No project yet. Make one: vaquero make NAME');
      else
        io.out(
          table(io, ['project', 'branch', 'last build', 'repository', 'state'], all.map(row), 4),
        );
    });
  },
});

function row(project: ProjectSeen): readonly string[] {
  const last =
    project.lastBuild === null ? 'none' : `${project.lastBuild.number} ${project.lastBuild.state}`;
  return [
    project.name,
    project.branch,
    last,
    project.repository.kind,
    project.endedAt === null
      ? safe(project.repository.state)
      : `ended ${when(project.endedAt)}; it can be read`,
  ];
}
