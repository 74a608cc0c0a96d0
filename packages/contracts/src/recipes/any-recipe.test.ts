import assert from 'node:assert/strict';
import test from 'node:test';
import { cleanPath } from '@vaquero/core';
import fc from 'fast-check';
import { readRecipe } from './read-recipe.ts';

const words = [
  'steps:',
  '\n',
  '  ',
  'pages:',
  ' {run: "x"',
  ', reads: [',
  'src',
  '/etc',
  '../',
  '~/',
  ']',
  '}',
  'serve: {site: out}',
  'writes: ',
  'caches: ',
  '"\\0"',
  '"\\e"',
  '&a ',
  '*a',
  '<<: ',
  '!!binary ',
  '- ',
  '? ',
  '__proto__',
  'constructor',
  'beside: ',
  'again: ',
  '|',
  '>',
  "'",
  '#',
  '%YAML 1.1\n',
  '---\n',
];

test('whatever a recipe says, it is read or refused with places, and what is read stays in its folder', () => {
  const text = fc
    .array(fc.oneof(fc.constantFrom(...words), fc.string({ maxLength: 4 })), { maxLength: 40 })
    .map((all) => all.join(''));
  const nearly = text.map((inner) => `steps:\n  pages: {run: "x", ${inner}}\nserve: {site: out}\n`);
  fc.assert(
    fc.property(fc.oneof(text, nearly), (written) => {
      const read = readRecipe(written);
      if (!read.ok) {
        assert.equal(read.refusal.code, 'recipe-invalid');
        return;
      }
      for (const { reads, writes, caches, in: folder } of read.value.steps) {
        for (const path of [
          ...(reads ?? []),
          ...(writes ?? []),
          ...(folder === null ? [] : [folder]),
        ])
          assert.ok(!cleanPath(path).split('/').includes('..'), path);
        for (const cache of caches)
          assert.ok(!cache.split('/').includes('..') && !/^~(?!\/)/.test(cache), cache);
      }
      assert.doesNotMatch(JSON.stringify(read.value), /\\u00(?:0|1b)/);
    }),
    { numRuns: 3000 },
  );
});
