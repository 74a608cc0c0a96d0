import { type RecipeStep, toolPrograms } from '@vaquero/core';
import { basicEnvironment } from '../walls/basic-environment.ts';
import type { BuildAt } from './build-at.ts';

const certificates = '/etc/ssl/certs/ca-certificates.crt';

/** What package managers other than npm, which reads its own file, must know of where packages come from. */
function reachingOut(npmrc: string): Readonly<Record<string, string>> {
  const registry = /^registry=(\S+)$/m.exec(npmrc)?.[1];
  return {
    ...(registry === undefined
      ? {}
      : {
          COREPACK_NPM_REGISTRY: registry.replace(/\/$/, ''),
          YARN_NPM_REGISTRY_SERVER: registry.replace(/\/$/, ''),
        }),
    // Reading them costs each start of Node a tenth of a second, so only machines that need it pay.
    ...(process.env.VAQUERO_MACHINE_CERTIFICATES === undefined
      ? {}
      : { NPM_CONFIG_CAFILE: certificates, NODE_EXTRA_CA_CERTS: certificates }),
  };
}

/** No commit, ref or number is in a build's environment: what a step could bake in would make equal inputs differ. */
export function environmentOf(
  at: BuildAt,
  step: Pick<RecipeStep, 'sets' | 'given' | 'network'>,
): Readonly<Record<string, string>> {
  const given = at.given.given.filter(({ name }) => step.given.includes(name));
  const pinned = toolPrograms(at.given.recipe.tools)
    .map((folder) => `/build/${folder}:`)
    .join('');
  return {
    ...basicEnvironment,
    PATH: `${pinned}${basicEnvironment.PATH}`,
    CI: 'true',
    VAQUERO_PROJECT: at.given.project,
    NPM_CONFIG_GLOBALCONFIG: '/etc/npmrc',
    SSL_CERT_FILE: certificates,
    ...(step.network === 'out' ? reachingOut(at.npmrc) : {}),
    ...step.sets,
    ...Object.fromEntries(given.map(({ name, value }) => [name, value])),
  };
}
