import { mapRoutes, type ReachReply } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, table, tone } from '../output.ts';

/** Shows who and what can reach which environment. */
export const reach = command({
  name: 'reach',
  says: 'who and what can reach which environment',
  examples: ['reach timetable', 'reach timetable --json'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.reachRoute, { params: { project } });
    give(context, reply, ({ rules, people, refs, warnings }) => {
      const names = rules.map(({ name }) => name);
      const ofPeople = people.map(({ shownAs, role, deeds }) => [
        safe(shownAs),
        role,
        ...deeds.map((own) => own.join(', ') || 'nothing'),
      ]);
      io.out(table(io, ['who', 'is', ...names], ofPeople, 2));
      io.out('');
      const ofRefs = refs.map((group) => [
        kinds[group.kind],
        namesOf(group),
        ...group.ways.map((way, place) => wayInWords(way, rules[place])),
      ]);
      io.out(table(io, ['what', 'is', ...names], ofRefs, 1));
      for (const { rule, message } of warnings)
        io.out(tone(io, 'warn', `Warning: ${rule} ${safe(message)}.`));
      if (warnings.length === 0) io.out('The rules allow what they say.');
    });
  },
});

type Group = ReachReply['refs'][number];

const kinds: Readonly<Record<Group['kind'], string>> = {
  branch: 'branch',
  tag: 'tag',
  'pull-request': 'pull request',
  outsiders: 'of an outsider',
};

function namesOf({ names, count }: Group): string {
  const first = names.slice(0, 3).map(safe).join(', ');
  return count > 3 ? `${first} and ${count - 3} more` : first;
}

const words: Readonly<Record<Group['ways'][number], string>> = {
  'by-itself': 'by itself',
  'once-served': 'once served below',
  'on-word': 'on a word',
  promoted: 'promoted',
  'by-merge': 'by a merge',
  'not-here': 'not here',
};

function wayInWords(way: Group['ways'][number], rule: ReachReply['rules'][number] | undefined) {
  return way === 'by-itself' && rule?.kind === 'each' ? 'one each' : words[way];
}
