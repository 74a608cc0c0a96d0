import { type ArtifactAddress, hostName, readArtifactHost } from '@vaquero/core';
import { projectsHolding } from '../artifacts/artifact-rows.ts';
import type { Deps } from '../base/deps.ts';
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
  const ofArtifact = readArtifactHost(host, artifactsBase);
  if (ofArtifact !== undefined) {
    const projectIds = await projectsOfArtifact(deps, ofArtifact);
    const labels = host.slice(0, -hostName(artifactsBase).length);
    const address = addressOf(`${labels}${artifactsBase}`);
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
  address: ArtifactAddress,
): Promise<readonly string[]> {
  if (address.by === 'digest') return projectsHolding(db, address.digest);
  const project = await projectByName(db, address.project);
  return project === undefined ? [] : [project.id];
}
