import {
  type Borrowing,
  type Helper,
  type Parameter,
  type Recipe,
  type RecipeStep,
  type RefRule,
  rulesOf,
  type Serve,
  type Tools,
} from '@vaquero/core';
import { stringify } from 'yaml';

/** Writes a recipe as the text of a recipe file; reading it gives the same recipe. Throws when its folder is open. */
export function writeRecipe(recipe: Recipe): string {
  if (recipe.serve?.site === null) throw new RangeError('the folder of the site is not known yet');
  return stringify({
    recipe: recipe.name,
    format: 1,
    ...(recipe.for === null ? {} : { for: ruleOf(recipe.for) }),
    ...(recipe.again === null
      ? {}
      : {
          again: {
            cron: recipe.again.cron,
            ...(recipe.again.branch === null ? {} : { branch: recipe.again.branch }),
          },
        }),
    ...some('beyond', recipe.beyond),
    ...toolsOf(recipe.tools),
    ...(recipe.steps.length === 0 ? {} : { steps: named(recipe.steps, stepOf) }),
    ...(recipe.beside.length === 0 ? {} : { beside: named(recipe.beside, helperOf) }),
    ...some('runner', recipe.runner),
    serve: recipe.serve === null ? 'nothing' : serveOf(recipe.serve),
  });
}

function toolsOf(tools: Tools): Readonly<Record<string, unknown>> {
  const said = Object.entries(tools).filter(([, version]) => version !== null);
  return said.length === 0 ? {} : { tools: Object.fromEntries(said) };
}

function serveOf({ site, sites, entry, missing, ...rules }: Serve): unknown {
  const { base, moved, instead, headers, immutable } = rulesOf({ entry, missing, ...rules });
  const further = Object.entries(sites ?? {}).map(([at, folder]) => [`/${at}`, folder]);
  const pairs = (key: string, all: readonly (readonly [string, unknown])[]): object =>
    all.length === 0 ? {} : { [key]: Object.fromEntries(all) };
  return {
    ...(base === '/' ? {} : { base }),
    ...pairs(
      'moved',
      moved.map(({ from, to }) => [from, to]),
    ),
    site: further.length === 0 ? site : { '/': site, ...Object.fromEntries(further) },
    ...pairs(
      'instead',
      instead.map(({ at, page }) => [at, page]),
    ),
    ...(entry === 'index.html' ? {} : { entry }),
    ...(missing === null ? {} : { missing }),
    ...some('immutable', immutable),
    ...pairs(
      'headers',
      headers.map(({ at, fields }) => [at, fields]),
    ),
  };
}

/** A borrowed step is written as what it borrows; the definition stands at the lender. */
function borrowingOf(step: RecipeStep, { params, ...borrows }: Borrowing): unknown {
  return {
    ...some('after', step.after),
    borrows,
    ...(Object.keys(params).length === 0 ? {} : { params }),
    ...(step.for === null ? {} : { for: ruleOf(step.for) }),
    ...(step.failure === 'ends' ? {} : { failure: step.failure }),
  };
}

function lendsOf(lends: Readonly<Record<string, Parameter>>): unknown {
  return Object.fromEntries(
    Object.entries(lends).map(([name, { takes, default: otherwise }]) => {
      const said = otherwise === null ? {} : { default: otherwise };
      if (typeof takes !== 'string') return [name, { 'one-of': takes, ...said }];
      return [name, otherwise === null ? takes : { takes, ...said }];
    }),
  );
}

function stepOf(step: RecipeStep): unknown {
  if (step.borrows !== null) return borrowingOf(step, step.borrows);
  return {
    ...(step.lends === null ? {} : { lends: lendsOf(step.lends) }),
    ...some('after', step.after),
    run: oneOf(step.run),
    ...(step.in === null ? {} : { in: step.in }),
    ...(step.reads === null ? {} : { reads: step.reads }),
    ...(step.writes === null ? {} : { writes: step.writes }),
    ...(step.network === 'none' ? {} : { network: step.network }),
    ...(Object.keys(step.sets).length === 0 ? {} : { sets: step.sets }),
    ...some('given', step.given),
    ...some('caches', step.caches),
    ...(step.withinMs === null ? {} : { within: spanOf(step.withinMs) }),
    ...(step.tries === 1 ? {} : { tries: step.tries }),
    ...(step.for === null ? {} : { for: ruleOf(step.for) }),
    ...(step.failure === 'ends' ? {} : { failure: step.failure }),
    ...some('beside', step.beside),
    ...(step.results.tests.length + step.results.findings.length === 0
      ? {}
      : {
          results: {
            ...some('tests', step.results.tests),
            ...some('findings', step.results.findings),
          },
        }),
  };
}

function helperOf(helper: Helper): unknown {
  return {
    run: helper.run,
    ...(helper.readyPort === null ? {} : { ready: { port: helper.readyPort } }),
    within: spanOf(helper.withinMs),
  };
}

function ruleOf(rule: RefRule): unknown {
  return {
    ...some('branch', rule.branch),
    ...some('tag', rule.tag),
    ...some('proposed-into', rule.proposedInto),
  };
}

function named<Item extends { readonly name: string }>(
  items: readonly Item[],
  write: (item: Item) => unknown,
): Readonly<Record<string, unknown>> {
  return Object.fromEntries(items.map((item) => [item.name, write(item)]));
}

function some(key: string, items: readonly string[]): Readonly<Record<string, unknown>> {
  return items.length === 0 ? {} : { [key]: oneOf(items) };
}

function oneOf(items: readonly string[]): unknown {
  return items.length === 1 ? items[0] : items;
}

function spanOf(ms: number): string {
  if (ms % 3_600_000 === 0) return `${ms / 3_600_000} h`;
  return ms % 60_000 === 0 ? `${ms / 60_000} min` : `${ms / 1000} s`;
}
