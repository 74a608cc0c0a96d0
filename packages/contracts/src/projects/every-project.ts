import type { z } from 'zod';
import { asSent, type Client, countsAsSent } from '../http/client.ts';
import { listProjectsRoute, type projectSeen } from './project-routes.ts';

type ProjectSeen = z.output<typeof projectSeen>;

/** Every project that one may see, by name, as one reply: the list is asked for page by page. */
export async function everyProject(
  client: Client,
  signal?: AbortSignal,
): Promise<z.output<typeof listProjectsRoute.reply>> {
  const all: ProjectSeen[] = [];
  const sent: unknown[] = [];
  for (let after = ''; ; ) {
    const reply = await client.call(listProjectsRoute, {
      query: { limit: 200, ...(after === '' ? {} : { after }) },
      ...(signal === undefined ? {} : { signal }),
    });
    all.push(...reply.projects);
    sent.push(...(asSent(reply) as z.input<typeof listProjectsRoute.reply>).projects);
    const last = reply.projects.at(-1);
    if (!reply.more || last === undefined)
      return countsAsSent({ projects: all, more: false }, { projects: sent, more: false });
    after = last.name;
  }
}
