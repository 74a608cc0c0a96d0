import type { Serve } from '../recipes/recipe.ts';
import { rulesOf } from './serving-rules.ts';

/** What is said of how a site is answered, one rule a line; nothing for what is only usual. */
export function rulesInWords(serve: Serve): readonly string[] {
  const { base, moved, instead, headers, immutable } = rulesOf(serve);
  return [
    ...(base === '/' ? [] : [`answers below ${base}`]),
    ...Object.entries(serve.sites ?? {}).map(([at, folder]) => `/${at} comes from ${folder}`),
    ...moved.map(({ from, to }) => `${from} moved to ${to}`),
    ...instead.map(({ at, page }) => `${at} is answered by ${page}`),
    ...immutable.map((pattern) => `${pattern} never changes`),
    ...headers.map(({ at, fields }) => `${at} comes with ${Object.keys(fields).join(', ')}`),
  ];
}
