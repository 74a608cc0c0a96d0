import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { refOfBranch } from '../refs/ref-name.ts';
import { borrowStep } from './borrow-step.ts';
import { recipesFor } from './for-ref.ts';
import { orderSteps } from './order-steps.ts';
import { withFolder } from './propose-recipe.ts';
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
  // Of a step that only one has, what it leaves out is not listed.
  assert.deepEqual(changed, [
    { field: 'serve.site', ours: 'dist', theirs: 'out' },
    { field: 'serve.missing', ours: 'none', theirs: '404.html' },
    { field: 'steps.pages.run', ours: 'true', theirs: 'absent' },
  ]);
});

test('a borrowed step keeps its place in the graph and takes the rest from its lender', () => {
  const borrows = {
    project: 'house-steps',
    step: 'links',
    commit: 'a'.repeat(40),
    params: { depth: 3, 'how-loud': true },
  };
  const own = {
    ...plainStep({ name: 'check', run: [], after: ['pages'], failure: 'warns' as const }),
    borrows,
  };
  const lends = {
    depth: { takes: 'number' as const, default: null },
    'how-loud': { takes: 'flag' as const, default: null },
    tone: { takes: ['plain', 'storm'], default: 'plain' },
  };
  const links = plainStep({
    name: 'links',
    run: ['./links.sh'],
    after: ['other'],
    lends,
    tries: 2,
  });
  const lender = (step: typeof links) => plainRecipe({ steps: [step], serve: null });
  const filled = borrowStep(own, lender(links));
  assert.ok('step' in filled);
  const { name, after, failure, run, tries, sets } = filled.step;
  assert.deepEqual(
    { name, after, failure, run, tries, sets },
    {
      name: 'check',
      after: ['pages'],
      failure: 'warns',
      run: ['./links.sh'],
      tries: 2,
      sets: { PARAM_DEPTH: '3', PARAM_HOW_LOUD: 'true', PARAM_TONE: 'plain' },
    },
  );
  const faulty = (step: typeof links) => {
    const end = borrowStep(own, lender(step));
    return 'faults' in end ? end.faults.map((fault) => fault.message) : [];
  };
  assert.match(faulty({ ...links, beside: ['database'] })[0] ?? '', /cannot be borrowed/);
  assert.match(faulty({ ...links, borrows })[0] ?? '', /borrow it from there/);
  assert.match(faulty({ ...links, lends: null })[0] ?? '', /is not lent/);
  assert.match(faulty({ ...links, lends: {} })[0] ?? '', /it takes none/);
});

test('of the recipes that want a ref at most one publishes', () => {
  const recipe = (name: string, isPublishing: boolean, branch: string | null) => ({
    recipe: plainRecipe({
      name,
      steps: [],
      serve: isPublishing ? { site: 'out', entry: 'index.html', missing: null } : null,
      for: branch === null ? null : { branch: [branch], tag: [], proposedInto: [] },
    }),
  });
  const all = [
    recipe('site', true, null),
    recipe('docs', true, 'docs'),
    recipe('rules', false, '*'),
  ];
  const main = refOfBranch('main');
  const docs = refOfBranch('docs');
  assert.ok(main !== undefined && docs !== undefined);
  const names = (choice: ReturnType<typeof recipesFor<(typeof all)[number]>>) =>
    ('chosen' in choice ? choice.chosen : choice.clashing).map((one) => one.recipe.name);
  assert.deepEqual(names(recipesFor(all, main, true)), ['site', 'rules']);
  assert.deepEqual(names(recipesFor(all, docs, false)), ['docs', 'rules']);
  const both = recipesFor(all, docs, true);
  assert.ok('clashing' in both);
  assert.deepEqual(names(both), ['site', 'docs']);
});
