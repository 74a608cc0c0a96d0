import { recipeRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showRecipe } from './show-recipe.ts';

/** Shows the recipe in force, what it was concluded from, and how it differs from what was accepted. */
export const recipe = command({
  name: 'recipe',
  says: 'how it is built, and what that was concluded from',
  examples: ['recipe timetable'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const params = { project };
    give(context, await context.client.call(recipeRoutes.showRecipeRoute, { params }), (reply) =>
      showRecipe(context.io, reply),
    );
  },
});
