import { mapJsonSchema } from '@vaquero/contracts';
import { command } from '../command.ts';

/** Writes the language of maps as JSON Schema, for an editor. */
export const mapSchema = command({
  name: 'map-schema',
  says: 'the language of maps as JSON Schema, for an editor',
  examples: ['map-schema > map.schema.json'],
  takes: (bare) => bare,
  run: ({ io }) => {
    io.write(`${JSON.stringify(mapJsonSchema(), null, 2)}\n`);
    return Promise.resolve();
  },
});
