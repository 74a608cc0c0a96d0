import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { readRefName } from '../refs/ref-name.ts';
import { isForRef, planFor } from './for-ref.ts';
import { cleanPath, fixedPart, matchesName, matchesPath } from './glob.ts';
import { plainRecipe, plainStep } from './recipe.ts';
import { belowFolder, rootedPlan, seenPaths } from './rooted-plan.ts';

test('patterns meet what they say and nothing else', () => {
  const cases: readonly (readonly [string, string, boolean])[] = [
    ['src', 'src', true],
    ['src', 'src/a/b.ts', true],
    ['src/', 'src/a', true],
    ['./src', 'src/a', true],
    ['src', 'srcs/a', false],
    ['.', 'anything/at/all', true],
    ['*.css', 'style.css', true],
    ['*.css', 'deep/style.css', false],
    ['**/*.css', 'style.css', true],
    ['**/*.css', 'a/b/style.css', true],
    ['src/**', 'src/a/b', true],
    ['src/**/x', 'src/x', true],
    ['a?c', 'abc', true],
    ['a?c', 'a/c', false],
    ['a*b*c', 'aXbYbZc', true],
    ['a*b*c', 'aXbYbZ', false],
  ];
  for (const [pattern, path, meets] of cases)
    assert.equal(matchesPath(pattern, path), meets, `${pattern} ${path}`);
  assert.equal(matchesName('try/*', 'try/a/b'), true);
  assert.equal(matchesName('v*', 'w1'), false);
  assert.deepEqual([cleanPath('./a//b/'), cleanPath('')], ['a/b', '.']);
  assert.deepEqual([fixedPart('a/b/*.x'), fixedPart('*.x'), fixedPart('a')], ['a/b', '.', 'a']);
});

test('a pattern made to take long takes no longer than another', () => {
  const begun = performance.now();
  assert.equal(matchesPath(`${'**/'.repeat(60)}x`, 'a/'.repeat(60)), false);
  assert.equal(matchesPath('*a'.repeat(40), 'a'.repeat(2000)), true);
  assert.equal(matchesPath(`${'*a'.repeat(40)}b`, 'a'.repeat(2000)), false);
  assert.ok(performance.now() - begun < 2000);
});

test('a step that is not for a ref is left out, and what came after it comes after what it came after', () => {
  const main = readRefName('refs/heads/main');
  const tag = readRefName('refs/tags/v1');
  assert.ok(main !== undefined && tag !== undefined);
  const rule = { branch: ['main'], tag: [], proposedInto: [] };
  assert.deepEqual([isForRef(rule, main), isForRef(rule, tag)], [true, false]);
  const recipe = plainRecipe({
    steps: [
      plainStep({ name: 'a', run: ['a'] }),
      plainStep({ name: 'b', run: ['b'], after: ['a'], for: rule }),
      plainStep({ name: 'c', run: ['c'], after: ['b', 'a'] }),
    ],
    serve: { site: 'out', entry: 'index.html', missing: null },
  });
  assert.equal(planFor(recipe, main), recipe);
  assert.deepEqual(
    planFor(recipe, tag).steps.map((step) => [step.name, step.after]),
    [
      ['a', []],
      ['c', ['a']],
    ],
  );
});

test('paths of a project in a folder count from the repository’s root once it is carried out', () => {
  const recipe = plainRecipe({
    beyond: ['/shared'],
    steps: [
      plainStep({
        name: 'a',
        run: ['a'],
        reads: ['src', '/shared/x'],
        writes: ['dist'],
        in: 'src',
      }),
      plainStep({ name: 'b', run: ['b'] }),
    ],
    serve: { site: 'dist', entry: 'index.html', missing: null },
  });
  const plan = rootedPlan(recipe, 'sites/desk');
  assert.deepEqual(
    plan.steps.map(({ in: folder, reads, writes }) => ({ folder, reads, writes })),
    [
      {
        folder: 'sites/desk/src',
        reads: ['sites/desk/src', 'shared/x'],
        writes: ['sites/desk/dist'],
      },
      { folder: 'sites/desk', reads: null, writes: null },
    ],
  );
  assert.equal(plan.serve?.site, 'sites/desk/dist');
  assert.deepEqual(seenPaths(recipe, 'sites/desk'), ['sites/desk', 'shared']);
  assert.deepEqual([seenPaths(recipe, ''), rootedPlan(recipe, '').serve?.site], [[], 'dist']);
  assert.equal(belowFolder('sites/desk/dist', 'sites/desk'), 'dist');
});

test('a name meets a pattern exactly when it is the pattern with something for each star', () => {
  const letters = (...of: string[]) => fc.array(fc.constantFrom(...of), { maxLength: 9 });
  fc.assert(
    fc.property(letters('a', 'b', '*', '?'), letters('a', 'b'), (pattern, name) => {
      const said = pattern.join('').replaceAll('*', '.*').replaceAll('?', '.');
      assert.equal(
        matchesName(pattern.join(''), name.join('')),
        new RegExp(`^${said}$`).test(name.join('')),
      );
    }),
    { numRuns: 5000 },
  );
});
