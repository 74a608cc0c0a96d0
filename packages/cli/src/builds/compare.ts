import { type ComparisonReply, comparisonRoutes } from '@vaquero/contracts';
import {
  addressOfPage,
  counted,
  picturesInWords,
  pixelsInWords,
  readPullRequestName,
} from '@vaquero/core';
import { type Context, command, give, Misuse, NotDone, whole } from '../command.ts';
import type { Io } from '../io.ts';
import { safe, tone } from '../output.ts';
import { readPullRequest } from '../refs/show-pull-request.ts';

const mostFiles = 12;
const mostPages = 8;
const mostLines = 12;

/** Says what differs between the artifacts of two builds, or what a pull request changes of what is served. */
export const compare = command({
  name: 'compare',
  says: 'what differs between two builds, or what a pull request changes',
  examples: ['compare timetable 29 31', 'compare timetable pr-3'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<first>', 'a build, or a pull request such as pr-3')
      .argument('[second]', 'the later build', whole),
  run: async (context, [project, first, second]) => {
    const query = await meant(context, project, first, second);
    const reply = await context.client.call(comparisonRoutes.compareRoute, {
      params: { project },
      query,
    });
    give(context, reply, (comparison) => showComparison(context.io, comparison));
  },
});

async function meant(
  context: Context,
  project: string,
  first: string,
  second: number | undefined,
): Promise<{ readonly before: number; readonly after: number }> {
  if (readPullRequestName(first) !== undefined && second === undefined) {
    const { compares } = await readPullRequest(context, project, first);
    if (compares === null)
      throw new NotDone(
        `${first} has no build with an artifact yet, or nothing is served to hold it against.`,
      );
    return { before: compares.before, after: compares.after };
  }
  if (second === undefined || !/^[1-9]\d{0,8}$/.test(first))
    throw new Misuse(`Name two builds, or a pull request: vaquero compare ${project} 29 31`);
  return { before: Number(first), after: second };
}

function showComparison(io: Io, comparison: ComparisonReply): void {
  const { before, after, counts, files, pages, everywhere, types, answers, findings } = comparison;
  const all = counts.added + counts.changed + counts.removed + counts.renamed;
  if (all === 0) {
    io.out(`Builds ${before.build} and ${after.build} are the same, byte for byte.`);
    return;
  }
  io.out(
    `${before.build} to ${after.build}   ${all} of ${counted(Math.max(before.files, after.files), 'file')} differ, ${signed(after.bytes - before.bytes)}`,
  );
  if (everywhere.lines.length > 0) {
    io.out(`every page   on ${everywhere.pages} pages`);
    showLines(io, everywhere.lines);
  }
  for (const { path, how, lines } of pages.slice(0, mostPages)) {
    io.out(`page         ${safe(path)}${how === 'added' ? ', new' : ''}`);
    showLines(io, lines);
  }
  if (pages.length > mostPages) io.out(`             and ${pages.length - mostPages} more pages`);
  const { unread } = comparison.pageCounts;
  if (unread > 0)
    io.out(`unread       ${unread} of the changed pages: too many, too large or too slow`);
  showPictures(io, comparison.pictures);
  for (const { path, how, from, before: was, after: is } of files.slice(0, mostFiles))
    io.out(
      `${how.padEnd(12)} ${safe(path)}${from === null ? '' : `, before ${safe(from)}`}, ${signed((is ?? 0) - (was ?? 0))}`,
    );
  if (all > mostFiles) io.out(`             and ${all - mostFiles} more files`);
  if (types.length > 0)
    io.out(
      `by type      ${types.map((one) => `${one.type} ${signed(one.after - one.before)}`).join(', ')}`,
    );
  if (answers.length > 0) io.out(`serve        ${answers.join(', ')}`);
  for (const { severity, path, message } of findings.new)
    io.out(tone(io, 'warn', `new          ${severity}: ${safe(path)} ${safe(message)}`));
  for (const { severity, path, message } of findings.gone)
    io.out(tone(io, 'good', `gone         ${severity}: ${safe(path)} ${safe(message)}`));
}

/** How otherwise pages look; the console shows them. */
function showPictures(io: Io, pictures: ComparisonReply['pictures']): void {
  if (pictures === null) return;
  const { state, why, pages } = pictures;
  io.out(`pictures     ${safe(picturesInWords(state, why, pages))}`);
  for (const { before, after, share, why: reason } of pages) {
    const address = safe(addressOfPage(after ?? before ?? ''));
    if (reason !== null) io.out(`             ${address}   ${safe(reason)}`);
    else if (share !== null && share > 0 && before !== null && after !== null)
      io.out(`             ${address}   ${pixelsInWords(share)}`);
  }
}

function signed(bytes: number): string {
  return `${bytes < 0 ? '-' : '+'}${Math.abs(bytes)} bytes`;
}

type Line = ComparisonReply['everywhere']['lines'][number];

/** What went in one line, what came in another: as a reader of a pipe can tell apart. */
function showLines(io: Io, lines: readonly Line[]): void {
  const changed = lines.filter(({ is }) => is !== 'same' && is !== 'gap');
  for (const line of changed.slice(0, mostLines)) {
    if (line.is === 'reworded') {
      const side = (not: 'added' | 'removed'): string =>
        line.parts.flatMap(({ is, text }) => (is === not ? [] : [text])).join('');
      io.out(tone(io, 'bad', `  - ${safe(side('added'))}`));
      io.out(tone(io, 'good', `  + ${safe(side('removed'))}`));
    } else
      io.out(
        tone(
          io,
          line.is === 'added' ? 'good' : 'bad',
          `  ${line.is === 'added' ? '+' : '-'} ${safe(line.text)}`,
        ),
      );
  }
  if (changed.length > mostLines) io.out(`    and ${changed.length - mostLines} more lines`);
}
