import type { RoutingTable } from '@vaquero/contracts';
import { hostName, schemeOf } from '@vaquero/core';

/** Finds where a host leads that is called otherwise lately: an address without a path. */
export function makeMoved({
  moved: { hosts, projects },
  artifactsBase,
}: Pick<RoutingTable, 'moved' | 'artifactsBase'>): (host: string) => string | undefined {
  const known = new Map(Object.entries(hosts).map(([host, to]) => [hostName(host), to]));
  const renamed = new Map(Object.entries(projects));
  const base = hostName(artifactsBase);
  return (host) => {
    const to = known.get(host);
    if (to !== undefined) return to;
    // Artifacts are found by their build below the name of their project.
    const [, build, name = ''] = /^(build-\d{1,9})\.([a-z0-9-]+)\./.exec(host) ?? [];
    const now = renamed.get(name);
    return now === undefined || host !== `${build}.${name}.${base}`
      ? undefined
      : `${schemeOf(artifactsBase)}://${build}.${now}.${artifactsBase}`;
  };
}
