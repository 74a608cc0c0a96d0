/** How bad a finding is, worst first. */
export const severities = ['error', 'warning', 'note'] as const;
export type Severity = (typeof severities)[number];

/** Something the inspection or a tool reports: what, where, and what to do. */
export interface Finding {
  readonly rule: string;
  readonly severity: Severity;
  readonly message: string;
  readonly path: string;
  readonly line: number | null;
  readonly cure: string;
}

/** Findings, the worst first, then by place. */
export function worstFirst(findings: readonly Finding[]): readonly Finding[] {
  return findings.toSorted(
    (a, b) =>
      severities.indexOf(a.severity) - severities.indexOf(b.severity) ||
      (a.path < b.path ? -1 : a.path > b.path ? 1 : (a.line ?? 0) - (b.line ?? 0)),
  );
}

/** How many findings of each severity there are. */
export function countFindings(findings: readonly Finding[]): Readonly<Record<Severity, number>> {
  const count = (severity: Severity): number =>
    findings.filter((finding) => finding.severity === severity).length;
  return { error: count('error'), warning: count('warning'), note: count('note') };
}

/** How many findings of each severity there are, in words: “1 error and 3 notes”. */
export function findingCounts(findings: readonly Finding[]): string {
  const counts = countFindings(findings);
  const said = severities.flatMap((severity) => {
    const count = counts[severity];
    return count === 0 ? [] : [`${count} ${severity}${count === 1 ? '' : 's'}`];
  });
  return said.length === 0 ? 'no finding' : said.join(', ').replace(/, (?=[^,]*$)/, ' and ');
}

/** A finding as one line: its place and what is there. */
export function findingInWords({ path, line, message }: Finding): string {
  return `${path === '' ? 'the output' : path}${line === null ? '' : `, line ${line}`}: ${message}`;
}
