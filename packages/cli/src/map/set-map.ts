import { mapRoutes } from '@vaquero/contracts';
import { collect, command, confirm, give, Misuse } from '../command.ts';
import { mapFile } from './map-file.ts';
import { showDifference, showWarnings } from './show-difference.ts';

const none: readonly string[] = [];

/** Sets a map anew, after saying what that changes. */
export const setMap = command({
  name: 'set-map',
  says: 'set the map anew, after saying what that changes',
  examples: [
    'set-map timetable map.yaml --reason "three stages"',
    'set-map timetable map.yaml --ends preview-2 --yes',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<file>', 'the document')
      .option('--reason <text>', 'stands beside the version')
      .option('--ends <environment>', 'it is meant to end by this; once for each', collect, none)
      .option('--yes', 'do not ask'),
  run: async (context, [project, file], { reason, ends }) => {
    const { io } = context;
    const params = { project };
    const text = await mapFile(file);
    const { tag, version } = await context.client.call(mapRoutes.showMapRoute, { params });
    const tried = await context.client.call(mapRoutes.tryMapRoute, { params, body: { text } });
    if (!context.json) {
      showDifference(io, tried.difference);
      showWarnings(io, tried.warnings, file);
    }
    const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
    if (why.trim() === '')
      throw new Misuse('A map takes a reason: --reason "…". It stands beside the version.');
    await confirm(context, `Set version ${version + 1} of the map of ${project}?`);
    const set = await context.client.call(mapRoutes.setMapRoute, {
      params,
      body: { text, reason: why, ends: [...ends] },
      seen: tag,
    });
    give(context, set, (now) =>
      io.out(`Version ${now.version} of the map of ${project} is in force.`),
    );
  },
});
