import assert from 'node:assert/strict';
import test from 'node:test';
import type { PackageView } from './commit-view.ts';
import { proposeRecipe, withOutput } from './propose-recipe.ts';

type Files = Readonly<Record<string, PackageView | ''>>;

const aPackage = (build: string, dependencies: readonly string[]): PackageView => ({
  name: null,
  scripts: { build },
  dependencies,
  hasLocal: false,
  workspaces: [],
  packageManager: null,
});

const propose = (files: Files) =>
  proposeRecipe({
    paths: Object.keys(files),
    packages: Object.fromEntries(
      Object.entries(files).flatMap(([path, one]) =>
        one === '' ? [] : [[path.replace(/\/?package\.json$/, ''), one]],
      ),
    ),
    configs: {},
    node: null,
    around: null,
  });

test('one page with a router answers the addresses that have none; generators and several pages do not', () => {
  const routed = aPackage('vite build', ['vite', 'react-router']);
  const instead = (files: Files) => propose(files).recipe?.serve?.instead;
  const one = propose({ 'package.json': routed, 'index.html': '' });
  assert.deepEqual(one.recipe?.serve?.instead, [{ at: '/*', page: '/index.html' }]);
  assert.match(one.because.join('\n'), /depends on react-router, and there is one page/);
  assert.equal(
    instead({ 'package.json': aPackage('vite build', ['vite']), 'index.html': '' }),
    undefined,
  );
  assert.equal(instead({ 'package.json': routed, 'index.html': '', 'desk.html': '' }), undefined);
  const docs = aPackage('docusaurus build', ['@docusaurus/core', 'react-router']);
  assert.equal(instead({ 'package.json': docs }), undefined);
  // What the build shows says the rest.
  const recipe = one.recipe ?? assert.fail();
  const shown = (paths: readonly string[], base: string | null) =>
    withOutput(recipe, 'dist', paths, base).serve;
  assert.deepEqual(shown(['index.html', '404.html', 'a.js'], null), {
    site: 'dist',
    entry: 'index.html',
    missing: '404.html',
    instead: [{ at: '/*', page: '/index.html' }],
  });
  assert.deepEqual(shown(['index.html', 'a.js'], '/desk/'), {
    site: 'dist',
    entry: 'index.html',
    missing: null,
    base: '/desk/',
    instead: [{ at: '/desk/*', page: '/desk/index.html' }],
  });
  assert.equal(shown(['index.html', 'about.html'], null)?.instead, undefined);
});
