import { mapRoutes, type WhyReply } from '@vaquero/contracts';

import { command, give } from '../command.ts';
import type { Io } from '../io.ts';
import { safe, tone } from '../output.ts';

/** Says where a ref goes, and which rules say so. */
export const why = command({
  name: 'why',
  says: 'where a ref goes and why; what a commit, person or environment may',
  examples: ['why timetable pr-12', 'why timetable staging', 'why timetable 4be1c02e9d0f'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<ref>', 'a branch, a tag, pr-12, an environment, a person, a commit'),
  run: async (context, [project, ref]) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.whyRoute, {
      params: { project },
      query: { ref },
    });
    give(context, reply, (answer) => {
      io.out(`${safe(answer.name)}: ${safe(answer.why)}`);
      if (answer.about === 'ref') tellRef(io, answer);
      else tellOther(io, answer);
      for (const line of answer.waits) io.out(`waits      ${safe(line)}`);
    });
  },
});

function tellRef(io: Io, { commit, answers, environments }: WhyReply): void {
  io.out(
    commit === null
      ? tone(io, 'warn', 'at         nothing: the repository has no such ref now')
      : `at         ${commit.slice(0, 12)}`,
  );
  for (const { rule, isMatch, why: said } of answers)
    io.out(`${isMatch ? tone(io, 'good', 'yes') : 'no '}        ${rule}: ${safe(said)}`);
  for (const { name, address, serves } of environments)
    io.out(`goes to    ${name}, which ${servesInWords(serves)}: ${address}`);
}

function tellOther(io: Io, { answers, environments }: WhyReply): void {
  for (const { rule, why: said } of answers) io.out(`           ${rule}: ${safe(said)}`);
  for (const { name, address, serves } of environments)
    io.out(`is at      ${name}, which ${servesInWords(serves)}: ${address}`);
}

function servesInWords(build: number | null): string {
  return build === null ? 'serves nothing yet' : `serves build ${build}`;
}
