import { previewRoutes } from '@vaquero/contracts';
import { command, give, Misuse } from '../command.ts';
import { when } from '../output.ts';

/** Keeps one environment of a family until some moment, or lets it end as the map says. */
export const keep = command({
  name: 'keep',
  says: 'keep a preview until some moment',
  examples: [
    'keep timetable pr-12 --until 2026-12-24',
    'keep timetable pr-12 --until 7d --reason "later"',
    'keep timetable pr-12 --no-longer',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<environment>', 'one of a family, such as pr-12')
      .option('--until <time>', 'such as 2026-12-24, 2026-12-24T18:00Z, or 7d from now', moment)
      .option('--reason <text>', 'stands beside it')
      .option('--no-longer', 'it ends when the map says so'),
  run: async (context, [project, environment], { until, reason, longer }) => {
    const params = { project, environment };
    if (!longer) {
      await context.client.call(previewRoutes.keepNoLongerRoute, { params });
      context.io.err(`${environment} ends when the map says so.`);
      return;
    }
    if (until === undefined)
      throw new Misuse('Say until when, such as --until 7d, or --no-longer.');
    const kept = await context.client.call(previewRoutes.keepPreviewRoute, {
      params,
      body: { until: new Date(until).toISOString(), ...(reason === undefined ? {} : { reason }) },
    });
    give(context, kept, ({ name, family }) =>
      context.io.out(
        `${name} is kept until ${when(family.kept?.until ?? until)}${family.endsAt !== null && family.endsAt > until ? `; it would end at ${when(family.endsAt)} anyway` : ''}.`,
      ),
    );
  },
});

/** A moment as people write it: a day (its end), a moment of UTC, or a span from now. */
function moment(text: string): number {
  const span = /^(\d{1,3}) ?([hd])$/.exec(text);
  if (span !== null)
    return Date.now() + Number(span[1]) * (span[2] === 'h' ? 3_600_000 : 86_400_000);
  const at = Date.parse(/^\d{4}-\d{2}-\d{2}$/.test(text) ? `${text}T23:59:59Z` : text);
  if (Number.isNaN(at))
    throw new Misuse(`"${text}" is no moment: write 2026-12-24, 2026-12-24T18:00Z or 7d.`);
  return at;
}
