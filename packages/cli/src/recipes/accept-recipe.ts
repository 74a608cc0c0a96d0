import { recipeRoutes } from '@vaquero/contracts';
import { collect, command, give } from '../command.ts';
import { wishesOf } from './recipe-fields.ts';
import { showRecipe } from './show-recipe.ts';

const none: readonly string[] = [];

/** Accepts the recipe in force, with single fields set anew. */
export const acceptRecipe = command({
  name: 'accept-recipe',
  says: 'accept the recipe, with single fields set anew',
  examples: ['accept-recipe timetable', 'accept-recipe timetable --site dist --tool node=22'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--site <folder>', 'the folder that is published')
      .option('--entry <page>', 'the page of a folder')
      .option('--missing <page>', 'the page for what is not there; empty for none')
      .option('--base <folder>', 'the folder of the host that the site is built for')
      .option('--instead <address=page>', 'the page for addresses without one; none', collect, none)
      .option('--candidate <site>', 'which of several sites it is')
      .option('--serve-nothing', 'nothing is published: what is built is tried')
      .option('--run <step=command>', 'a step’s command; empty removes the step', collect, none)
      .option('--without <step>', 'leave a step out', collect, none)
      .option('--network <step=none|out>', 'what a step reaches', collect, none)
      .option('--given <step=names>', 'the variables a step is given', collect, none)
      .option('--caches <step=folders>', 'the folders kept for a step', collect, none)
      .option('--tool <name=version>', 'node, pnpm or yarn by version', collect, none),
  run: async (context, [project], fields) => {
    const params = { project };
    const { version } = await context.client.call(recipeRoutes.showRecipeRoute, { params });
    const reply = await context.client.call(recipeRoutes.acceptRecipeRoute, {
      params,
      body: wishesOf(fields),
      seen: version,
    });
    give(context, reply, () => showRecipe(context.io, reply));
  },
});
