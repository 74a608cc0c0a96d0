import { evidenceRoutes } from '@vaquero/contracts';
import { command, whole } from '../command.ts';

/** Writes the signed statement of where a build's artifact came from. */
export const provenance = command({
  name: 'provenance',
  says: 'where its artifact came from, signed',
  examples: ['provenance timetable 218 > statement.json'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<number>', 'the build', whole),
  run: async (context, [project, build]) => {
    const envelope = await context.client.call(evidenceRoutes.provenanceRoute, {
      params: { project, build },
    });
    context.io.write(`${JSON.stringify(envelope, null, 2)}\n`);
  },
});
