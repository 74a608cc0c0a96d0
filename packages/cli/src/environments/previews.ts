import { type PreviewSeen, previewRoutes } from '@vaquero/contracts';
import { endedInWords } from '@vaquero/core';
import { command, give } from '../command.ts';
import { bytes, safe, table, tone, when } from '../output.ts';

const columns = ['preview', 'owner', 'build', 'size', 'pushed', 'visited', 'ends'];

/** Lists the environments of families: those that end first stand first. */
export const previews = command({
  name: 'previews',
  says: 'environments of families: whose, of what, until when',
  examples: ['previews timetable', 'previews timetable --owner jonas', 'previews timetable --kept'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--owner <name>', 'only those of a person')
      .option('--kept', 'only those that somebody keeps'),
  run: async (context, [project], { owner, kept }) => {
    const { io } = context;
    const reply = await context.client.call(previewRoutes.listPreviewsRoute, {
      params: { project },
    });
    const isMeant = ({ family }: PreviewSeen): boolean =>
      (owner === undefined || family.owner?.name === owner) &&
      (kept !== true || family.kept !== null);
    const shown = { ...reply, previews: reply.previews.filter(isMeant) };
    give(context, shown, ({ previews: all, ended }) => {
      if (all.length === 0) io.out('No such preview lives.');
      else listThem(all);
      if (owner === undefined && kept !== true)
        for (const one of ended)
          io.out(
            `${one.name} ended ${when(one.endedAt)}: ${endedInWords(one.because)}${one.by === null ? '' : `, ${safe(one.by)}`}.`,
          );
    });

    function listThem(all: readonly PreviewSeen[]): void {
      io.out(
        table(
          io,
          columns,
          all.map((one) => [
            one.name,
            safe(one.family.owner?.shownAs ?? ''),
            one.build === null ? '' : String(one.build),
            one.bytes === null ? '' : bytes(one.bytes),
            one.lastPushAt === null ? '' : when(one.lastPushAt),
            one.lastVisitAt === null ? 'never' : when(one.lastVisitAt),
            endsInWords(one),
          ]),
          6,
        ),
      );
      for (const { name, family } of all.filter(({ family: { endsSoon } }) => endsSoon))
        io.out(tone(io, 'warn', `${name} ends soon, as nobody touches it${ofWhom(family)}.`));
    }
  },
});

function endsInWords({ family: { endsAt, kept } }: PreviewSeen): string {
  const at = endsAt === null ? '' : when(endsAt);
  return kept === null
    ? at
    : `${at}, kept by ${safe(kept.by)}${kept.why === '' ? '' : `: ${safe(kept.why)}`}`;
}

function ofWhom({ owner }: PreviewSeen['family']): string {
  return owner === null ? '' : `; it is ${safe(owner.shownAs)}’s`;
}
