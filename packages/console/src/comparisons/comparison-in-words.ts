import type { ComparisonReply } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { size } from '../parts/words.ts';

/** Bytes as people say them, with the sign of a difference: `+6.1 kB`. */
export function difference(bytes: number): string {
  const sign = bytes < 0 ? '−' : '+';
  return bytes === 0 ? '±0' : `${sign}${size(Math.abs(bytes))}`;
}

/** How much differs, in one line. */
export function comparisonInWords(comparison: ComparisonReply): string {
  const { before, after, pageCounts, counts, everywhere } = comparison;
  const changed = counts.added + counts.changed + counts.removed + counts.renamed;
  if (changed === 0) return 'nothing: they are the same, byte for byte';
  return [
    `${pageCounts.otherText} of ${counted(Math.max(pageCounts.before, pageCounts.after), 'page')} say otherwise`,
    `${changed} of ${counted(Math.max(before.files, after.files), 'file')} differ`,
    difference(after.bytes - before.bytes),
    ...(everywhere.lines.length === 0
      ? []
      : [`on ${everywhere.pages} pages the same ${counted(everywhere.lines.length, 'line')}`]),
  ].join(', ');
}
