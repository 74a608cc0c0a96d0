import { mapRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { mapFile } from './map-file.ts';
import { showDifference, showWarnings } from './show-difference.ts';

/** Says what would change if a map were set; nothing is written. */
export const tryMap = command({
  name: 'try-map',
  says: 'what would change if a map were set: nothing is written',
  examples: ['try-map timetable map.yaml'],
  takes: (bare) =>
    bare.argument('<project>', 'a project').argument('<file>', 'the document to be set'),
  run: async (context, [project, file]) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.tryMapRoute, {
      params: { project },
      body: { text: await mapFile(file) },
    });
    give(context, reply, ({ difference, warnings }) => {
      showDifference(io, difference);
      showWarnings(io, warnings, file);
    });
  },
});
