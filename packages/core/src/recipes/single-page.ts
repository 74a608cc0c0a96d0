import { below, type FolderView } from './commit-view.ts';
import type { FoundGenerator } from './generators.ts';

/** Packages by which a page's own script takes addresses apart. Data: each is the one that its documentation installs. */
const routers: readonly string[] = [
  'react-router',
  'react-router-dom',
  'vue-router',
  '@angular/router',
  '@solidjs/router',
  '@tanstack/react-router',
  '@tanstack/solid-router',
  '@tanstack/vue-router',
  'preact-router',
  'preact-iso',
  'svelte-routing',
  'svelte-spa-router',
  'wouter',
  'page',
  'navigo',
];

/** Bundlers that write no pages but those that they are given; generators of pages route by them. */
const bundlers: ReadonlySet<string> = new Set([
  'Create React App',
  'Vue CLI',
  'Vite',
  'Parcel',
  'Rsbuild',
  'webpack',
]);

/**
 * The router by which a folder's one page answers all its addresses; null where there is none, or more than one page.
 */
export function routerOf(view: FolderView, found: FoundGenerator | undefined): string | null {
  const named = view.packages['']?.dependencies ?? [];
  const router = routers.find((name) => named.includes(name));
  const isBundled = found === undefined || bundlers.has(found.generator.name);
  if (router === undefined || !isBundled) return null;
  const pages = ['', 'public', 'src'].flatMap((folder) =>
    view.paths.filter(
      (path) =>
        path.startsWith(folder === '' ? '' : `${folder}/`) &&
        path.endsWith('.html') &&
        path === below(folder, path.slice(path.lastIndexOf('/') + 1)) &&
        !path.endsWith('404.html'),
    ),
  );
  return new Set(pages).size <= 1 ? router : null;
}
