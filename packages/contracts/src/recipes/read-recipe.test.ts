import assert from 'node:assert/strict';
import test from 'node:test';
import type { DocumentFault } from '@vaquero/core';
import { readRecipe } from './read-recipe.ts';
import { writeRecipe } from './write-recipe.ts';

function faultsOf(text: string): readonly DocumentFault[] {
  const read = readRecipe(text);
  assert.ok(!read.ok && read.refusal.code === 'recipe-invalid', 'was read');
  return read.refusal.faults;
}

const good = `recipe: site
format: 1
steps:
  packages: {run: npm ci, network: out}
  pages:
    after: packages
    run: [npm run data, npm run build]
serve:
  site: dist
  missing: 404.html
`;

test('a recipe is read, and written again says the same', () => {
  const read = readRecipe(good);
  assert.ok(read.ok);
  assert.deepEqual(read.value, {
    name: 'site',
    steps: [
      { name: 'packages', run: ['npm ci'], after: [], network: 'out' },
      {
        name: 'pages',
        run: ['npm run data', 'npm run build'],
        after: ['packages'],
        network: 'none',
      },
    ],
    serve: { site: 'dist', entry: 'index.html', missing: '404.html' },
  });
  assert.deepEqual(readRecipe(writeRecipe(read.value)), read);
});

test('keys of the coming language are refused by name, others as unknown, each at its place', () => {
  const faults = faultsOf(
    'steps:\n  pages:\n    run: x\n    caches: [a]\nserve:\n  site: dist\n  sight: b\n',
  );
  assert.deepEqual(faults, [
    { path: 'steps.pages.caches', message: 'is not known yet', line: 4, column: 5 },
    { path: 'serve.sight', message: 'is not a key of a recipe', line: 7, column: 3 },
  ]);
});

test('bad input gets its line and column', () => {
  const cases: readonly (readonly [string, string, number | null])[] = [
    ['serve: {site: /etc}\n', 'must stay inside the project’s folder', 1],
    ['serve:\n  site: a/../../b\n', 'must stay inside the project’s folder', 2],
    ['steps: {Pages: {run: x}}\nserve: {site: a}\n', 'Invalid key in record', 1],
    ['steps:\n  a: {run: x, after: b}\nserve: {site: a}\n', 'comes after "b", which is no step', 2],
    [
      'steps:\n  a: {run: x, after: b}\n  b: {run: x, after: a}\nserve: {site: a}\n',
      'waits for itself: a after b after a',
      2,
    ],
    ['format: 2\nserve: {site: a}\n', 'Invalid input: expected 1', 1],
    ['steps: {}\n', 'Invalid input: expected object, received undefined', 1],
    ['serve: [\n', 'Flow sequence in block collection must be sufficiently indented', 2],
    ['', 'Invalid input: expected object, received null', 1],
  ];
  for (const [text, message, line] of cases) {
    const [fault] = faultsOf(text);
    assert.ok(fault, text);
    assert.ok(fault.message.startsWith(message), `${text}: ${fault.message}`);
    assert.equal(fault.line, line, text);
  }
});

test('a small file cannot grow without end', () => {
  const bomb = `a: &a [x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b]\nserve: {site: d}\nsteps: {}\n`;
  assert.match(faultsOf(bomb)[0]?.message ?? '', /anchor and an alias/);
  assert.match(faultsOf('x'.repeat(70_000))[0]?.message ?? '', /is over 65536 bytes/);
});
