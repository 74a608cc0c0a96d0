import { mapRoutes } from '@vaquero/contracts';
import { compareTexts } from '@vaquero/core';
import { command, give, Misuse, NotDone, whole } from '../command.ts';
import { safe, table, when } from '../output.ts';
import { showTextDifference } from '../text-difference.ts';

/** Lists the versions of a map, writes the text of one, or compares two. */
export const mapVersions = command({
  name: 'map-versions',
  says: 'every version of the map: who set it, when, and why',
  examples: [
    'map-versions timetable',
    'map-versions timetable 2 > map.yaml',
    'map-versions timetable 3 --against 2',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[version]', 'write its text', whole)
      .option('--against <version>', 'show what it says otherwise than this one', whole),
  run: async (context, [project, version], { against }) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.mapVersionsRoute, { params: { project } });
    if (version !== undefined) {
      const textOf = (wanted: number): string => {
        const found = reply.versions.find((one) => one.version === wanted);
        if (found === undefined)
          throw new NotDone(`The map of ${project} has no version ${wanted}.`);
        return found.text;
      };
      return against === undefined
        ? io.write(textOf(version))
        : showTextDifference(io, compareTexts(textOf(against), textOf(version)));
    }
    if (against !== undefined) throw new Misuse('Name the version that is held against it, too.');
    give(context, reply, ({ versions }) =>
      io.out(
        table(
          io,
          ['version', 'set', 'by', 'changes', 'why'],
          versions.map((one) => [
            String(one.version),
            when(one.at),
            one.by ?? 'Vaquero',
            one.changes.map(({ rule, how }) => `${rule} ${how}`).join(', '),
            safe(one.reason ?? ''),
          ]),
          4,
        ),
      ),
    );
  },
});
