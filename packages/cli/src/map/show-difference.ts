import type { MapDifferenceSeen, MapReply } from '@vaquero/contracts';
import type { Io } from '../io.ts';
import { safe, tone } from '../output.ts';

const mostShown = 12;

/** Says what a map would change: rules first, then what starts, ends and moves. */
export function showDifference(io: Io, difference: MapDifferenceSeen): void {
  const { rules, refs, refCount, starts, ends, leaves } = difference;
  if (rules.length + refCount + starts.length + ends.length + leaves.length === 0)
    io.out('Nothing would change.');
  for (const { rule, how, before, after } of rules) {
    if (how === 'gone') io.out(tone(io, 'warn', `rule       ${rule} is gone: ${before ?? ''}`));
    else io.out(`rule       ${rule} is ${how}: ${safe(after ?? '')}`);
    if (how === 'changed' || how === 'renamed')
      io.out(tone(io, 'quiet', `before     ${before ?? ''}`));
  }
  for (const { rule, name } of starts.slice(0, mostShown))
    io.out(tone(io, 'good', `starts     one of ${rule} for ${safe(name)}, which is built`));
  for (const name of ends) io.out(tone(io, 'bad', `ends       ${name}: what it serves vanishes`));
  for (const name of leaves)
    io.out(
      tone(
        io,
        'warn',
        `leaves     ${name}: its ref is no longer among them; it ends after its time`,
      ),
    );
  for (const { name, before, after } of refs.slice(0, mostShown))
    io.out(`ref        ${safe(name)} goes to ${said(after)}, before to ${said(before)}`);
  const left = Math.max(0, starts.length - mostShown) + Math.max(0, refCount - mostShown);
  if (left > 0) io.out(`           and ${left} more`);
}

function said(names: readonly string[]): string {
  return names.join(' and ') || 'nothing';
}

/** Says what may be meant otherwise than it is written. */
export function showWarnings(io: Io, warnings: MapReply['warnings'], file: string): void {
  for (const { line, column, path, message } of warnings)
    io.out(tone(io, 'warn', `${file}:${line ?? 1}:${column ?? 1}: ${path} ${message}`));
}
