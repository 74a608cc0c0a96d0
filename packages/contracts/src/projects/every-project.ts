import type { z } from 'zod';
import type { Client } from '../http/client.ts';
import { listProjectsRoute, type projectSeen } from './project-routes.ts';

type ProjectSeen = z.output<typeof projectSeen>;

/** Every project that one may see, by name: the list is asked for page by page. */
export async function everyProject(
  client: Client,
  signal?: AbortSignal,
): Promise<readonly ProjectSeen[]> {
  const all: ProjectSeen[] = [];
  for (let after = ''; ; ) {
    const { projects, more } = await client.call(listProjectsRoute, {
      query: { limit: 200, ...(after === '' ? {} : { after }) },
      ...(signal === undefined ? {} : { signal }),
    });
    all.push(...projects);
    const last = projects.at(-1);
    if (!more || last === undefined) return all;
    after = last.name;
  }
}
