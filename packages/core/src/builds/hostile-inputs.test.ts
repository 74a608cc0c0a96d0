import assert from 'node:assert/strict';
import test from 'node:test';
import { siteFolders } from '../artifacts/site-folders.ts';
import { plainStep } from '../recipes/recipe.ts';
import { looksFor, mostLooks, readsOf } from './step-key.ts';
import { tellingLine } from './telling-line.ts';

test('folders that look like sites are found among as many as a build can write', () => {
  const paths = Array.from({ length: 60_000 }, (_, n) => [
    `s${n}/index.html`,
    `s${n}/deep/er/index.html`,
    `s${n}/a.css`,
  ]).flat();
  const found = siteFolders(
    [
      ...paths,
      'dist/index.html',
      ...Array.from({ length: 9 }, (_, n) => `dist/${n}/index.html`),
      'index.html',
      'test/index.html',
    ],
    'index.html',
    new Set(),
  );
  assert.deepEqual(found[0], { folder: 'dist', files: 10 });
  assert.equal(found.length, 4);
});

test('the telling line is found in a log that was made to be slow to read', () => {
  const slow = [
    'x'.repeat(60_000),
    'npm ci '.repeat(8000),
    ' '.repeat(60_000),
    'a.'.repeat(30_000),
    "FileNotFoundError'".repeat(3000),
  ];
  const lines = Array.from({ length: 300 }, (_, n) => ({
    number: n + 1,
    text: slow[n % slow.length] ?? '',
  }));
  const told = tellingLine([
    ...lines,
    { number: 301, text: 'cat: fares.json: No such file or directory' },
  ]);
  assert.ok(told !== undefined);
});

test('files that a step reads are picked as their paths are met, each path once taken apart', () => {
  const file = (path: string, mode = '100644') => ({ path, mode, object: 'x' });
  const files = [
    file('src/a.ts'),
    file('src/deep/b.ts'),
    file('public/x.png'),
    file('README.md'),
    file('theme', '160000'),
  ];
  const read = (...reads: string[]): readonly string[] =>
    readsOf(plainStep({ name: 'x', run: ['x'], reads }))(files).map(({ path }) => path);
  assert.deepEqual(read('src'), ['src/a.ts', 'src/deep/b.ts']);
  assert.deepEqual(read('./src/*.ts', 'README.md'), ['src/a.ts', 'README.md']);
  assert.deepEqual(read('**/*.ts', 'theme/css/*'), ['src/a.ts', 'src/deep/b.ts', 'theme']);
  assert.deepEqual(
    read('.'),
    files.map(({ path }) => path),
  );
  const steps = [
    plainStep({ name: 'x', run: ['x'], reads: Array.from({ length: 200 }, () => '*') }),
  ];
  assert.ok(looksFor(steps, 200_000) > mostLooks && looksFor(steps, 5000) < mostLooks);
});
