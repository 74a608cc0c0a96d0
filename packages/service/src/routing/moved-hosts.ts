import type { RoutingTable } from '@vaquero/contracts';
import type { Deps } from '../base/deps.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import { formerNamesLately } from '../projects/former-name-rows.ts';
import { projectById } from '../projects/project-rows.ts';

/** Hosts by which environments were known before they, or their project, were called otherwise, with where they lead. */
export async function movedHosts(deps: Deps): Promise<{
  readonly projects: RoutingTable['moved']['projects'];
  /** With the moment since when each leads elsewhere, the newest last. */
  readonly hosts: readonly (readonly [host: string, address: string, since: number])[];
}> {
  const former = await formerNamesLately(deps.db, deps.clock());
  const renamed: Record<string, string> = {};
  const hosts: [string, string, number][] = [];
  for (const id of new Set(former.map(({ projectId }) => projectId))) {
    const project = await projectById(deps.db, id);
    const own = former.filter(({ projectId }) => projectId === id);
    const projectNames = own.filter(({ environmentId }) => environmentId === null);
    for (const { name } of projectNames) renamed[name] = project.name;
    for (const environment of await environmentsOf(deps.db, id)) {
      const to = hostOfEnvironment(deps.config, project.name, environment);
      const names = own.filter(({ environmentId }) => environmentId === environment.id);
      for (const of of [...projectNames, { name: project.name, at: 0 }])
        for (const { name, at } of [...names, { name: environment.name, at: 0 }]) {
          const host = hostOfEnvironment(deps.config, of.name, { ...environment, name });
          if (host !== to) hosts.push([host, addressOf(to), Math.max(of.at, at)]);
        }
    }
  }
  return { projects: renamed, hosts: hosts.sort(([, , one], [, , other]) => one - other) };
}
