import { diffArrays } from 'diff';
import { type ComparedLine, compareTexts } from './compare-texts.ts';

/** A stretch of a line, in both or in one of them. */
export interface Stretch {
  readonly is: 'same' | 'added' | 'removed';
  readonly text: string;
}

/** A line of a page that is compared; one that was reworded says which words. */
export type PageLine =
  | ComparedLine
  | { readonly is: 'reworded'; readonly parts: readonly Stretch[] };

/** A page before and after, as the lines that a reader sees. */
export interface PageTexts {
  readonly path: string;
  readonly before: string;
  readonly after: string;
}

/** What pages say otherwise; what (nearly) every one of them says otherwise is said once. */
export interface PagesCompared {
  /** Those with more than what all have; in the order they were given. */
  readonly pages: readonly { readonly path: string; readonly lines: readonly PageLine[] }[];
  /** What all have, and how many of them. */
  readonly everywhere: { readonly pages: number; readonly lines: readonly PageLine[] };
  /** Pages whose bytes differ and whose text does not. */
  readonly sameText: number;
}

/** From so many changed pages on what (nearly) all of them have is told apart. */
const fewest = 3;
const nearlyAll = 0.8;
/** A word-by-word comparison of longer lines, or of those that differ in more words, is not readable. */
const longestLine = 2_000;
const mostWords = 100;

/** Compares what the readers of pages see. */
export function comparePages(pages: readonly PageTexts[]): PagesCompared {
  const compared = pages.map(({ path, before, after }) => ({
    path,
    isNew: before === '',
    lines: compareTexts(before, after, 1),
  }));
  const changed = compared.filter(({ lines }) => lines.length > 0);
  // A page that is new has nothing that it said before.
  const common = commonAmong(changed.flatMap(({ isNew, lines }) => (isNew ? [] : [lines])));
  const own = changed
    .map(({ path, lines }) => ({ path, lines: without(lines, common) }))
    .filter(({ lines }) => lines.some(({ is }) => is === 'added' || is === 'removed'));
  const having = changed.filter(
    ({ isNew, lines }) => !isNew && lines.some((line) => common.has(keyOf(line))),
  );
  const shared = having[0]?.lines;
  return {
    pages: own.map(({ path, lines }) => ({ path, lines: reworded(lines) })),
    everywhere: {
      pages: having.length,
      lines: reworded((shared ?? []).filter((line) => common.has(keyOf(line)))),
    },
    sameText: compared.length - changed.length,
  };
}

function keyOf({ is, text }: ComparedLine): string {
  return `${is} ${text}`;
}

/** The lines that (nearly) every changed page has gained or lost. */
function commonAmong(pages: readonly (readonly ComparedLine[])[]): ReadonlySet<string> {
  if (pages.length < fewest) return new Set();
  const counts = new Map<string, number>();
  for (const lines of pages)
    for (const key of new Set(lines.filter(isChange).map(keyOf)))
      counts.set(key, (counts.get(key) ?? 0) + 1);
  const least = Math.max(fewest, Math.ceil(pages.length * nearlyAll));
  return new Set([...counts].filter(([, count]) => count >= least).map(([key]) => key));
}

function isChange({ is }: ComparedLine): boolean {
  return is === 'added' || is === 'removed';
}

/** The lines of a page that are left where what all have is taken away; same lines stay only beside a change. */
function without(
  lines: readonly ComparedLine[],
  common: ReadonlySet<string>,
): readonly ComparedLine[] {
  const left = lines.filter((line) => !common.has(keyOf(line)));
  const near = left.filter(
    (line, place) =>
      line.is === 'gap' ||
      isChange(line) ||
      [left[place - 1], left[place + 1]].some((next) => next !== undefined && isChange(next)),
  );
  // A gap stands between two stretches that are told, and only there.
  return near.filter(
    ({ is }, place) =>
      is !== 'gap' || (place > 0 && place < near.length - 1 && near[place - 1]?.is !== 'gap'),
  );
}

/** Lines that went and came in the same place are, one for one, a line that was reworded. */
function reworded(lines: readonly ComparedLine[]): readonly PageLine[] {
  const made: PageLine[] = [];
  for (let at = 0; at < lines.length; ) {
    const went = runOf(lines, at, 'removed');
    const came = runOf(lines, at + went.length, 'added');
    const paired = Math.min(went.length, came.length);
    for (const [place, line] of went.slice(0, paired).entries())
      made.push(...pair(line, came[place] ?? line));
    made.push(...went.slice(paired), ...came.slice(paired));
    at += went.length + came.length;
    const next = lines[at];
    if (went.length + came.length === 0 && next !== undefined) {
      made.push(next);
      at += 1;
    }
  }
  return made;
}

function runOf(
  lines: readonly ComparedLine[],
  from: number,
  is: ComparedLine['is'],
): readonly ComparedLine[] {
  let to = from;
  while (lines[to]?.is === is) to += 1;
  return lines.slice(from, to);
}

/** Words with the spaces between them: what belongs together without one, such as 14:40, is one word. */
function wordsOf(text: string): string[] {
  return text.split(/(\s+)/).filter((word) => word !== '');
}

/** A reworded line, if enough of it stayed to be read as one. */
function pair(before: ComparedLine, after: ComparedLine): readonly PageLine[] {
  if (before.text.length + after.text.length > longestLine) return [before, after];
  const words = diffArrays(wordsOf(before.text), wordsOf(after.text), { maxEditLength: mostWords });
  if (words === undefined) return [before, after];
  const parts = words.map(({ added, removed, value }) => ({
    is: added ? ('added' as const) : removed ? ('removed' as const) : ('same' as const),
    text: value.join(''),
  }));
  const stayed = parts.reduce(
    (sum, { is, text }) => sum + (is === 'same' ? text.trim().length : 0),
    0,
  );
  return stayed * 2 < Math.min(before.text.length, after.text.length)
    ? [before, after]
    : [{ is: 'reworded', parts }];
}
