import { recipeJsonSchema } from '@vaquero/contracts';
import { command } from '../command.ts';

/** Writes the recipe language as JSON Schema, for an editor. */
export const recipeSchema = command({
  name: 'recipe-schema',
  says: 'the recipe language as JSON Schema, for an editor',
  examples: ['recipe-schema > recipe.schema.json'],
  takes: (bare) => bare,
  run: ({ io }) => {
    io.write(`${JSON.stringify(recipeJsonSchema(), null, 2)}\n`);
    return Promise.resolve();
  },
});
