import { diffArrays } from 'diff';

/** A line of two texts that are compared; `gap` stands for lines left out that both have. */
export interface ComparedLine {
  readonly is: 'same' | 'added' | 'removed' | 'gap';
  readonly text: string;
}

/** Texts that differ in more lines than these are not compared line by line: each is said whole. The time grows with their square. */
const mostEdits = 500;

/**
 * Compares two texts line by line. Around what changed `around` lines of what did not are kept; nothing is returned for
 * texts that are the same.
 */
export function compareTexts(before: string, after: string, around = 2): readonly ComparedLine[] {
  const lines = compared(linesOf(before), linesOf(after));
  const isNear = nearChanges(lines, around);
  return lines.flatMap((line, place): readonly ComparedLine[] => {
    if (isNear[place]) return [line];
    const isFirstLeftOut = place === 0 || isNear[place - 1] === true;
    return isFirstLeftOut && isNear.includes(true) ? [{ is: 'gap', text: '' }] : [];
  });
}

function compared(before: readonly string[], after: readonly string[]): readonly ComparedLine[] {
  const parts = diffArrays([...before], [...after], { maxEditLength: mostEdits });
  if (parts === undefined)
    return [
      ...before.map((text) => ({ is: 'removed' as const, text })),
      ...after.map((text) => ({ is: 'added' as const, text })),
    ];
  return parts.flatMap(({ added, removed, value }) =>
    value.map((text) => ({
      is: added ? ('added' as const) : removed ? ('removed' as const) : ('same' as const),
      text,
    })),
  );
}

function linesOf(text: string): readonly string[] {
  return text === '' ? [] : text.replace(/\n$/, '').split('\n');
}

/** Which lines are kept: what changed, and what stands so near to it. */
function nearChanges(lines: readonly ComparedLine[], around: number): readonly boolean[] {
  const near = lines.map(() => false);
  for (const [place, { is }] of lines.entries())
    if (is !== 'same')
      near.fill(true, Math.max(0, place - around), Math.min(lines.length, place + around + 1));
  return near;
}
