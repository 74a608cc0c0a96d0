import { type ProjectSeen, projectRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { safe, table, when } from '../output.ts';

/** Lists the projects one may see. */
export async function listProjects(context: Context): Promise<void> {
  give(context, await context.client.call(projectRoutes.listProjectsRoute), (projects) => {
    if (projects.length === 0) context.io.out('No project yet. Make one: vaquero make NAME');
    else
      context.io.out(
        table(
          context.io,
          ['project', 'branch', 'last build', 'repository', 'state'],
          projects.map(row),
          4,
        ),
      );
  });
}

function row(project: ProjectSeen): readonly string[] {
  const last =
    project.lastBuild === null ? 'none' : `${project.lastBuild.number} ${project.lastBuild.state}`;
  return [
    project.name,
    project.branch,
    last,
    project.repository.kind,
    safe(project.repository.state),
  ];
}

/** Where a project's repository is, as the command line says it. */
export interface Source {
  readonly url?: string | undefined;
  readonly path?: string | undefined;
}

/** Makes a project and says where it will stand and what to do first. */
export async function makeProject(
  context: Context,
  name: string,
  source: Source,
  branch: string,
  folder: string,
): Promise<void> {
  const repository =
    source.url !== undefined
      ? { kind: 'http' as const, url: source.url }
      : source.path !== undefined
        ? { kind: 'path' as const, path: source.path }
        : { kind: 'hosted' as const };
  give(
    context,
    await context.client.call(projectRoutes.makeProjectRoute, {
      body: { name, branch, folder, repository },
    }),
    (project) => showProject(context, project),
  );
}

/** Reads a repository's refs now. */
export async function look(context: Context, project: string): Promise<void> {
  give(
    context,
    await context.client.call(projectRoutes.lookRoute, { params: { project } }),
    (seen) => showProject(context, seen),
  );
}

function showProject({ io }: Context, project: ProjectSeen): void {
  io.out(`${project.name}: ${safe(project.repository.state)}`);
  if (project.head !== null)
    io.out(
      `head        ${project.head.commit.slice(0, 12)} ${safe(project.head.subject)} (${safe(project.head.author)}, ${when(project.head.at)})`,
    );
  for (const { environment, address } of project.addresses)
    io.out(`${environment.padEnd(11)} ${address}`);
  if (project.repository.kind === 'hosted')
    io.out(`push        git push ${project.repository.place} ${project.branch}`);
  else io.out(`repository  ${project.repository.place}`);
}
