import type { Finding } from './finding.ts';

/** The findings that only the later of two inspections has, and those that only the earlier has. */
export function findingsThatDiffer(
  before: readonly Finding[],
  after: readonly Finding[],
): { readonly new: readonly Finding[]; readonly gone: readonly Finding[] } {
  const keyOf = ({ rule, path, message }: Finding): string => `${rule} ${path} ${message}`;
  const [was, is] = [new Set(before.map(keyOf)), new Set(after.map(keyOf))];
  return {
    new: after.filter((one) => !was.has(keyOf(one))),
    gone: before.filter((one) => !is.has(keyOf(one))),
  };
}
