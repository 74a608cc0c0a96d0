import type { PackageView } from './commit-view.ts';
import type { Generator } from './generators.ts';

/** Names under which people keep the script that writes a site, the most telling first. */
const names = [
  'build',
  'docs:build',
  'build:docs',
  'build-docs',
  'build:site',
  'site:build',
  'build:web',
  'web:build',
  'build:static',
  'build:prod',
  'build:production',
  'generate',
  'export',
  'dist',
] as const;

/**
 * The script of a package that writes its site: one that runs the generator comes before one that is only
 * named so, since a library's `build` builds the library. Null where none is.
 */
export function siteScript(own: PackageView, generator: Generator | undefined): string | null {
  const there = names.filter((name) => own.scripts[name] !== undefined);
  const runs = generator?.runs;
  const telling =
    runs === undefined ? undefined : there.find((name) => runs.test(own.scripts[name] ?? ''));
  return telling ?? there[0] ?? null;
}

/** What a script of that name holds where nobody has written one: npm makes it so. */
const placeholder = /no test specified/;

/** Whether a package has tests of its own. */
export function hasTests(own: PackageView | undefined): boolean {
  const script = own?.scripts.test;
  return script !== undefined && script.trim() !== '' && !placeholder.test(script);
}
