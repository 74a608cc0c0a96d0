import { recipeRoutes } from '@vaquero/contracts';
import { command, give, NotDone } from '../command.ts';
import { showRecipe } from './show-recipe.ts';

/** Shows the recipe in force, what it was concluded from, and how it differs from what was accepted. */
export const recipe = command({
  name: 'recipe',
  says: 'how it is built, and what that was concluded from',
  examples: ['recipe timetable', 'recipe timetable --text > vaquero.yaml'],
  takes: (bare) =>
    bare.argument('<project>', 'a project').option('--text', 'as the file that it is, or would be'),
  run: async (context, [project], { text }) => {
    const params = { project };
    const reply = await context.client.call(recipeRoutes.showRecipeRoute, { params });
    give(context, reply, (shown) => {
      if (text !== true) return showRecipe(context.io, shown);
      if (shown.asFile === null)
        throw new NotDone('There is no recipe that can be written down yet.');
      context.io.write(shown.asFile);
    });
  },
});
