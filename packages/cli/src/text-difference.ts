import type { ComparedLine } from '@vaquero/core';
import type { Io } from './io.ts';
import { safe, tone } from './output.ts';

const marks = { same: ' ', added: '+', removed: '-', gap: '…' } as const;
const tones = { same: 'quiet', added: 'good', removed: 'bad', gap: 'quiet' } as const;

/** Shows two texts compared line by line. */
export function showTextDifference(io: Io, lines: readonly ComparedLine[]): void {
  if (lines.length === 0) io.out('They say the same.');
  for (const { is, text } of lines) io.out(tone(io, tones[is], `${marks[is]} ${safe(text)}`));
}
