import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { orderSteps } from './order-steps.ts';
import { proposeRecipe, withFolder } from './propose-recipe.ts';
import { plainRecipe, plainStep, type RecipeStep } from './recipe.ts';
import { recipeDifferences } from './recipe-differences.ts';

const step = (name: string, ...after: string[]): RecipeStep =>
  plainStep({ name, run: ['true'], after });

test('every step comes after those it names, in the written order otherwise', () => {
  const steps = fc
    .integer({ min: 1, max: 9 })
    .chain((count) =>
      fc.tuple(
        ...Array.from({ length: count }, (_, place) =>
          fc
            .subarray(Array.from({ length: place }, (_unused, other) => `s${other}`))
            .map((after) => step(`s${place}`, ...after)),
        ),
      ),
    );
  fc.assert(
    fc.property(
      steps.chain((list) => fc.shuffledSubarray([...list], { minLength: list.length })),
      (shuffled) => {
        const ordered = orderSteps(shuffled);
        assert.ok('order' in ordered);
        const placed = new Set<string>();
        for (const one of ordered.order) {
          assert.ok(one.after.every((name) => placed.has(name)));
          placed.add(one.name);
        }
        assert.equal(placed.size, shuffled.length);
      },
    ),
  );
});

test('a circle is named whole, an unknown step by its name', () => {
  assert.deepEqual(orderSteps([step('a', 'c'), step('b', 'a'), step('c', 'b')]), {
    faults: [{ step: 'a', message: 'waits for itself: a after c after b after a' }],
  });
  assert.deepEqual(orderSteps([step('a', 'x')]), {
    faults: [{ step: 'a', message: 'comes after "x", which is no step' }],
  });
  assert.deepEqual(orderSteps([step('a', 'a')]), {
    faults: [{ step: 'a', message: 'waits for itself: a after a' }],
  });
});

test('plain pages need no command', () => {
  const proposal = proposeRecipe({
    paths: ['index.html', '404.html', 'style.css'],
    packageJson: null,
  });
  assert.deepEqual(proposal.recipe?.steps, []);
  assert.deepEqual(proposal.recipe?.serve, { site: '.', entry: 'index.html', missing: '404.html' });
  const nested = proposeRecipe({ paths: ['README.md', 'public/index.html'], packageJson: null });
  assert.equal(nested.recipe?.serve.site, 'public');
});

test('a build script gets its command from the lock file, and its folder stays open', () => {
  const scripts = { build: 'vite build' };
  const npm = proposeRecipe({
    paths: ['package.json', 'package-lock.json'],
    packageJson: { scripts },
  });
  assert.deepEqual(npm.recipe?.steps, [
    plainStep({ name: 'packages', run: ['npm ci'], network: 'out' }),
    plainStep({ name: 'pages', run: ['npm run build'], after: ['packages'] }),
  ]);
  assert.equal(npm.recipe?.serve.site, null);
  assert.ok(
    npm.because.some((why) => why.includes('package-lock.json')) &&
      npm.because.some((why) => why.includes('vite build')),
  );
  const bare = proposeRecipe({ paths: ['package.json'], packageJson: { scripts } });
  assert.deepEqual(
    bare.recipe?.steps.map((one) => one.name),
    ['pages'],
  );
  const other = proposeRecipe({ paths: ['package.json', 'yarn.lock'], packageJson: { scripts } });
  assert.match(other.recipe?.steps[0]?.run[0] ?? '', /yarn/);
});

test('where nothing speaks for a recipe, that is said', () => {
  const none = proposeRecipe({ paths: ['README.md'], packageJson: { scripts: { test: 'x' } } });
  assert.equal(none.recipe, null);
  assert.equal(none.because.length, 2);
});

test('two recipes differ field by field', () => {
  const ours = plainRecipe({
    steps: [step('pages')],
    serve: { site: 'dist', entry: 'index.html', missing: null },
  });
  const other = { ...ours, steps: [{ ...step('pages'), tries: 2 }] };
  assert.deepEqual(recipeDifferences(ours, other), [
    { field: 'steps.pages.tries', ours: '1', theirs: '2' },
  ]);
  assert.deepEqual(recipeDifferences(ours, ours), []);
  const changed = recipeDifferences(ours, withFolder({ ...ours, steps: [] }, 'out', true));
  assert.deepEqual(changed.slice(0, 3), [
    { field: 'serve.site', ours: 'dist', theirs: 'out' },
    { field: 'serve.missing', ours: 'none', theirs: '404.html' },
    { field: 'steps.pages.run', ours: 'true', theirs: 'absent' },
  ]);
});
