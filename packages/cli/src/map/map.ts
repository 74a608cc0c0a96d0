import { type MapReply, mapRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, table, when } from '../output.ts';
import { showWarnings } from './show-difference.ts';

/** Shows the map: each rule with what it matches now. */
export const map = command({
  name: 'map',
  says: 'which refs go to which environments, and what each rule matches',
  examples: ['map timetable', 'map timetable --text > map.yaml'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--text', 'the document as it was written, to edit and set again'),
  run: async (context, [project], { text }) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.showMapRoute, { params: { project } });
    if (text === true && !context.json) return io.write(reply.text);
    give(context, reply, ({ version, by, at, reason, rules, warnings }) => {
      const because = reason === null || reason === '' ? '' : `: “${safe(reason)}”`;
      io.out(`Version ${version} of ${when(at)}, by ${by ?? 'Vaquero'}${because}`);
      const head = ['lane', 'rule', 'matches now', 'environments'];
      io.out(table(io, head, rules.map(rowOf), 1));
      showWarnings(io, warnings, 'map');
    });
  },
});

function rowOf({
  name,
  kind,
  says,
  matchCount,
  matches,
  environments,
}: MapReply['rules'][number]): readonly string[] {
  const first = matches.slice(0, 3).map((one) => safe(one.name));
  const more = matchCount > first.length ? ` and ${matchCount - first.length} more` : '';
  return [
    name,
    says,
    kind === 'accepts' ? 'no ref' : `${first.join(', ')}${more}` || 'nothing',
    kind === 'each'
      ? `${environments.length} ${environments.length === 1 ? 'lives' : 'live'}`
      : environments.join(', '),
  ];
}
