import { hostName, readHostLabel } from '@vaquero/core';
import { projectsHolding } from '../artifacts/artifact-rows.ts';
import type { Deps } from '../deps.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import { projectByName } from '../projects/project-rows.ts';

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
  const project = await projectByName(deps.db, names?.at(-1) ?? '');
  if (project === undefined) return undefined;
  const own = (await environmentsOf(deps.db, project.id))
    .map((row) => hostOfEnvironment(deps.config, project.name, row))
    .find((one) => hostName(one) === host);
  return own === undefined
    ? undefined
    : { host, address: addressOf(own), projectIds: [project.id] };
}

/** The labels of a host below a base, from the left; undefined when it is not below it. */
function namesBelow(host: string, base: string): readonly string[] | undefined {
  return host.endsWith(`.${base}`) ? host.slice(0, -base.length - 1).split('.') : undefined;
}

/** The projects that have an artifact: the one that a build is named of, or all that hold its bytes. */
async function projectsOfArtifact(
  { db }: Deps,
  [first = '', named, ...more]: readonly string[],
): Promise<readonly string[]> {
  if (more.length > 0) return [];
  if (named !== undefined) {
    const project = /^build-\d{1,9}$/.test(first) ? await projectByName(db, named) : undefined;
    return project === undefined ? [] : [project.id];
  }
  const digest = readHostLabel(first);
  return digest === undefined ? [] : projectsHolding(db, digest);
}
