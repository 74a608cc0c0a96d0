import { type Digest, readHostLabel } from '../digest.ts';
import { hostName } from './host-name.ts';

/** What an address below the base of artifacts says: the digest of one, or a build that made one. */
export type ArtifactAddress =
  | { readonly by: 'digest'; readonly digest: Digest }
  | { readonly by: 'build'; readonly build: number; readonly project: string };

/** Reads the host of an artifact's own address. Undefined for any other host. */
export function readArtifactHost(host: string, base: string): ArtifactAddress | undefined {
  const name = hostName(host);
  const below = `.${hostName(base)}`;
  if (!name.endsWith(below)) return undefined;
  const [first = '', project, ...more] = name.slice(0, -below.length).split('.');
  if (more.length > 0) return undefined;
  if (project === undefined) {
    const digest = readHostLabel(first);
    return digest === undefined ? undefined : { by: 'digest', digest };
  }
  const [, build] = /^build-([1-9]\d{0,8})$/.exec(first) ?? [];
  return build === undefined || project === ''
    ? undefined
    : { by: 'build', build: Number(build), project };
}
