import type { Act, Add } from '../declare.ts';
import { checkRecipe, writeSchema } from './check-recipe.ts';
import { acceptRecipe, showRecipe } from './recipe.ts';
import type { RecipeFields } from './recipe-fields.ts';

/** Declares the commands about recipes. */
export function recipes(add: Add, act: Act): void {
  add('recipe <project>', 'how it is built, and what that was concluded from').action(
    act((context, project: string) => showRecipe(context, project)),
  );
  add('accept-recipe <project>', 'accept the recipe, with single fields set anew')
    .option('--site <folder>', 'the folder that is published')
    .option('--entry <page>', 'the page of a folder')
    .option('--missing <page>', 'the page for what is not there; empty for none')
    .option('--base <folder>', 'the folder of the host that the site is built for')
    .option('--instead <address=page>', 'the page for addresses without one; none', collect, [])
    .option('--candidate <site>', 'which of several sites it is')
    .option('--serve-nothing', 'nothing is published: what is built is tried')
    .option('--run <step=command>', 'a step’s command; empty removes the step', collect, [])
    .option('--without <step>', 'leave a step out', collect, [])
    .option('--network <step=none|out>', 'what a step reaches', collect, [])
    .option('--given <step=names>', 'the variables a step is given', collect, [])
    .option('--caches <step=folders>', 'the folders kept for a step', collect, [])
    .option('--tool <name=version>', 'node, pnpm or yarn by version', collect, [])
    .action(
      act((context, project: string, options: RecipeFields) =>
        acceptRecipe(context, project, options),
      ),
    );
  add('check-recipe [file]', 'check a recipe file where you work, without any service').action(
    act((context, file: string | undefined) => checkRecipe(context, file)),
  );
  add('recipe-schema', 'the recipe language as JSON Schema, for an editor').action(
    act((context) => writeSchema(context)),
  );
}

function collect(value: string, earlier: readonly string[]): readonly string[] {
  return [...earlier, value];
}
