import { mapRoutes } from '@vaquero/contracts';
import { command, give, NotDone, whole } from '../command.ts';
import { safe, table, when } from '../output.ts';

/** Lists the versions of a map, or writes the text of one. */
export const mapVersions = command({
  name: 'map-versions',
  says: 'every version of the map: who set it, when, and why',
  examples: ['map-versions timetable', 'map-versions timetable 2 > map.yaml'],
  takes: (bare) =>
    bare.argument('<project>', 'a project').argument('[version]', 'write its text', whole),
  run: async (context, [project, version]) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.mapVersionsRoute, { params: { project } });
    if (version !== undefined) {
      const found = reply.versions.find((one) => one.version === version);
      if (found === undefined)
        throw new NotDone(`The map of ${project} has no version ${version}.`);
      return io.write(found.text);
    }
    give(context, reply, ({ versions }) =>
      io.out(
        table(
          io,
          ['version', 'set', 'by', 'why'],
          versions.map((one) => [
            String(one.version),
            when(one.at),
            one.by ?? 'Vaquero',
            safe(one.reason ?? ''),
          ]),
          3,
        ),
      ),
    );
  },
});
