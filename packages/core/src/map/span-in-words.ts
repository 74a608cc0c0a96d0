/** A time as maps say it: in the largest unit that it is a whole number of. */
export function spanInWords(ms: number): string {
  const [unit, word] = units.find(([length]) => ms > 0 && ms % length === 0) ?? [60_000, 'min'];
  return `${ms / unit} ${word}`;
}

const units = [
  [86_400_000, 'd'],
  [3_600_000, 'h'],
] as const;
