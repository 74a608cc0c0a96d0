/** How one test ended. */
export interface TestCase {
  readonly name: string;
  readonly state: 'passed' | 'failed' | 'skipped';
  readonly tookMs: number | null;
  readonly message: string | null;
  /** Where it failed, as the tool said it. */
  readonly place: string | null;
}

/** What a report of tests says: counts, what failed, what took longest, and how each test ended. */
export interface TestReport {
  readonly total: number;
  readonly failed: number;
  readonly skipped: number;
  readonly tookMs: number;
  readonly failures: readonly TestCase[];
  readonly slowest: readonly { readonly name: string; readonly tookMs: number }[];
  /** Names of tests by how they ended, for comparing runs; at most 5,000 of them. */
  readonly passedNames: readonly string[];
}

const mostFailures = 100;
const mostNames = 5000;

/** Sums up how tests ended. */
export function testReport(cases: readonly TestCase[]): TestReport {
  const failures = cases.filter((one) => one.state === 'failed');
  const timed = cases.flatMap(({ name, tookMs }) => (tookMs === null ? [] : [{ name, tookMs }]));
  return {
    total: cases.length,
    failed: failures.length,
    skipped: cases.filter((one) => one.state === 'skipped').length,
    tookMs: timed.reduce((sum, one) => sum + one.tookMs, 0),
    failures: failures.slice(0, mostFailures),
    slowest: timed.toSorted((a, b) => b.tookMs - a.tookMs).slice(0, 5),
    passedNames: cases
      .filter((one) => one.state === 'passed')
      .slice(0, mostNames)
      .map((one) => one.name),
  };
}

/** A report of tests, and the commit it is about. */
export interface TestRun {
  readonly commit: string;
  readonly report: TestReport;
}

/**
 * Tests that both passed and failed on one and the same commit, most often failed first; counted over all
 * the runs given. One that fails on a commit and passes on the next was mended, not flaky.
 */
export function flakyTests(
  runs: readonly TestRun[],
): readonly { readonly name: string; readonly failed: number; readonly of: number }[] {
  const counts = new Map<string, { failed: number; passed: number }>();
  const byCommit = new Map<string, { failed: Set<string>; passed: Set<string> }>();
  for (const { commit, report } of runs) {
    const here = byCommit.get(commit) ?? { failed: new Set(), passed: new Set() };
    byCommit.set(commit, here);
    for (const name of report.passedNames) {
      countOf(counts, name).passed += 1;
      here.passed.add(name);
    }
    for (const { name } of report.failures) {
      countOf(counts, name).failed += 1;
      here.failed.add(name);
    }
  }
  const isFlaky = (name: string): boolean =>
    [...byCommit.values()].some((here) => here.failed.has(name) && here.passed.has(name));
  return [...counts]
    .filter(([name]) => isFlaky(name))
    .map(([name, { failed, passed }]) => ({ name, failed, of: failed + passed }))
    .toSorted((a, b) => b.failed - a.failed || (a.name < b.name ? -1 : 1));
}

function countOf(
  counts: Map<string, { failed: number; passed: number }>,
  name: string,
): { failed: number; passed: number } {
  const known = counts.get(name) ?? { failed: 0, passed: 0 };
  counts.set(name, known);
  return known;
}
