import { type RecipeStep, toolPrograms } from '@vaquero/core';
import type { BuildAt } from './build-at.ts';

/** No commit, ref or number is in a build's environment: what a step could bake in would make equal inputs differ. */
export function environmentOf(
  at: BuildAt,
  step: Pick<RecipeStep, 'sets' | 'given'>,
): Readonly<Record<string, string>> {
  const given = at.given.given.filter(({ name }) => step.given.includes(name));
  const pinned = toolPrograms(at.given.recipe.tools)
    .map((folder) => `/build/${folder}:`)
    .join('');
  return {
    PATH: `${pinned}/opt/node/bin:/usr/local/bin:/usr/bin:/bin`,
    HOME: '/home/build',
    TMPDIR: '/tmp',
    LANG: 'C.UTF-8',
    LC_ALL: 'C.UTF-8',
    TZ: 'UTC',
    CI: 'true',
    VAQUERO_PROJECT: at.given.project,
    NPM_CONFIG_GLOBALCONFIG: '/etc/npmrc',
    SSL_CERT_FILE: '/etc/ssl/certs/ca-certificates.crt',
    ...(process.env.VAQUERO_MACHINE_CERTIFICATES === undefined
      ? {}
      : { NPM_CONFIG_CAFILE: '/etc/ssl/certs/ca-certificates.crt' }),
    ...step.sets,
    ...Object.fromEntries(given.map(({ name, value }) => [name, value])),
  };
}
