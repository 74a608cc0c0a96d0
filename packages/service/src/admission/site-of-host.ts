import { type Digest, hostName, readHostLabel } from '@vaquero/core';
import { and, eq, isNull } from 'drizzle-orm';
import { artifacts, environments, projects } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';

/** A site by its host: its whole address, and the projects whose members may see it. */
export interface Site {
  /** The host without a port, as edges tell hosts apart. */
  readonly host: string;
  readonly address: string;
  readonly projectIds: readonly string[];
}

/** Finds what a host stands for: an environment, or an artifact by its build or its digest. Undefined for no site of ours. */
export async function siteOfHost(deps: Deps, asked: string): Promise<Site | undefined> {
  const host = hostName(asked);
  const { base, artifactsBase } = deps.config;
  const ofArtifact = namesBelow(host, hostName(artifactsBase));
  if (ofArtifact !== undefined) {
    const projectIds = await projectsOfArtifact(deps, ofArtifact);
    const address = addressOf(`${ofArtifact.join('.')}.${artifactsBase}`);
    return projectIds.length === 0 ? undefined : { host, address, projectIds };
  }
  const names = namesBelow(host, hostName(base));
  const project = names?.at(-1);
  if (names === undefined || project === undefined || names.length > 2) return undefined;
  const rows = await deps.db
    .select({ projectId: projects.id, name: environments.name, place: environments.place })
    .from(environments)
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .where(and(eq(projects.name, project), eq(environments.living, true)));
  const found = rows.find((row) => hostName(hostOfEnvironment(deps.config, project, row)) === host);
  if (found === undefined) return undefined;
  const address = addressOf(hostOfEnvironment(deps.config, project, found));
  return { host, address, projectIds: [found.projectId] };
}

/** The labels of a host below a base, from the left; undefined when it is not below it. */
function namesBelow(host: string, base: string): readonly string[] | undefined {
  return host.endsWith(`.${base}`) ? host.slice(0, -base.length - 1).split('.') : undefined;
}

async function projectsOfArtifact(
  deps: Deps,
  [first = '', project, ...more]: readonly string[],
): Promise<readonly string[]> {
  if (more.length > 0) return [];
  if (project !== undefined) {
    if (!/^build-\d{1,9}$/.test(first)) return [];
    const [row] = await deps.db
      .select({ id: projects.id })
      .from(projects)
      .where(eq(projects.name, project));
    return row === undefined ? [] : [row.id];
  }
  const digest: Digest | undefined = readHostLabel(first);
  if (digest === undefined) return [];
  const rows = await deps.db
    .select({ id: artifacts.projectId })
    .from(artifacts)
    .where(and(eq(artifacts.digest, digest), isNull(artifacts.goneAt)));
  return rows.map(({ id }) => id);
}
