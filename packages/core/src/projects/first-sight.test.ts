import assert from 'node:assert/strict';
import test from 'node:test';
import { candidateFolders } from './candidate-folders.ts';
import { languageShares } from './languages.ts';

test('languages are told by size, the largest first, and crumbs are left out', () => {
  const languageOf = (name: string) =>
    new Map([
      ['ts', 'TypeScript'],
      ['css', 'CSS'],
      ['sh', 'Shell'],
    ]).get(name.split('.').at(-1) ?? '');
  const files = [
    { path: 'src/a.ts', bytes: 600 },
    { path: 'src/b.ts', bytes: 95 },
    { path: 'look.css', bytes: 300 },
    { path: 'run.sh', bytes: 4 },
    { path: 'film.bin', bytes: 9_000_000 },
  ];
  assert.deepEqual(languageShares(files, languageOf), [
    { name: 'TypeScript', percent: 70 },
    { name: 'CSS', percent: 30 },
  ]);
  assert.deepEqual(languageShares([], languageOf), []);
});

test('folders that may be projects hold a package or a recipe, and are nobody else’s', () => {
  assert.deepEqual(
    candidateFolders([
      'package.json',
      'apps/signage/package.json',
      'apps/signage/node_modules/x/package.json',
      'tides/vaquero.yaml',
      'tides/package.json',
      'docs/index.html',
      'tests/fixtures/package.json',
      '.cache/package.json',
    ]),
    ['', 'tides', 'apps/signage'],
  );
  const many = Array.from({ length: 40 }, (_, at) => `site-${at}/package.json`);
  assert.equal(candidateFolders(many).length, 12);
});
