import { type Digest, hostLabelOf, isTop, schemeOf } from '@vaquero/core';
import type { ApiConfig } from '../base/config.ts';

/** The host an environment answers at: the top of the lanes has the project's own name. */
export function hostOfEnvironment(
  config: ApiConfig,
  project: string,
  { name, place }: { readonly name: string; readonly place: number },
): string {
  const names = isTop(place) ? project : `${name}.${project}`;
  return `${names}.${config.base}`;
}

/** The address of a host: names of other machines are reached over https by whatever stands before the edge. */
export function addressOf(host: string): string {
  return `${schemeOf(host)}://${host}`;
}

/** The two hosts of an artifact: by its digest, and by the build that can be said aloud. */
export function hostsOfArtifact(
  config: ApiConfig,
  project: string,
  digest: Digest,
  build: number,
): readonly [string, string] {
  return [
    `${hostLabelOf(digest)}.${config.artifactsBase}`,
    `build-${build}.${project}.${config.artifactsBase}`,
  ];
}
