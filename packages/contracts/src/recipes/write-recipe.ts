import type { Recipe } from '@vaquero/core';
import { stringify } from 'yaml';

/** Writes a recipe as the text of a recipe file; reading it gives the same recipe. Throws when its folder is open. */
export function writeRecipe(recipe: Recipe): string {
  if (recipe.serve.site === null) throw new RangeError('the folder of the site is not known yet');
  const steps = Object.fromEntries(
    recipe.steps.map((step) => [
      step.name,
      {
        ...(step.after.length === 0
          ? {}
          : { after: step.after.length === 1 ? step.after[0] : step.after }),
        run: step.run.length === 1 ? step.run[0] : step.run,
        ...(step.network === 'none' ? {} : { network: step.network }),
      },
    ]),
  );
  return stringify({
    recipe: recipe.name,
    format: 1,
    ...(recipe.steps.length === 0 ? {} : { steps }),
    serve: {
      site: recipe.serve.site,
      ...(recipe.serve.entry === 'index.html' ? {} : { entry: recipe.serve.entry }),
      ...(recipe.serve.missing === null ? {} : { missing: recipe.serve.missing }),
    },
  });
}
