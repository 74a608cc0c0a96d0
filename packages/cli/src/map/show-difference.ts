import type { MapDifferenceSeen, MapReply } from '@vaquero/contracts';
import type { Io } from '../io.ts';
import { safe, tone } from '../output.ts';

const mostShown = 12;

/** Says what a map would change: rules first, then what starts, ends and moves. */
export function showDifference(io: Io, difference: MapDifferenceSeen): void {
  const { rules, refs, refCount, starts, ends, leaves, rights, values } = difference;
  const changes = [rules, refs, starts, ends, leaves, rights];
  if (changes.every((list) => list.length === 0)) io.out('Nothing would change.');
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
  for (const { rule, names } of values)
    io.out(tone(io, 'warn', `values     of ${rule} go with it: ${names.join(', ')}`));
  for (const { shownAs, rule, gains, loses } of rights.slice(0, mostShown))
    io.out(
      `rights     ${safe(shownAs)}, ${rule}: ${[
        ...gains.map((deed) => `also ${deed}`),
        ...loses.map((deed) => `no longer ${deed}`),
      ].join(', ')}`,
    );
  for (const { name, before, after } of refs.slice(0, mostShown))
    io.out(`ref        ${safe(name)} goes to ${said(after)}, before to ${said(before)}`);
  const beyond = (count: number): number => Math.max(0, count - mostShown);
  const left = beyond(starts.length) + beyond(refCount) + beyond(rights.length);
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
