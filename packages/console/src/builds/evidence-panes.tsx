import { type BuildReply, findingsOf } from '@vaquero/contracts';
import { findingCounts } from '@vaquero/core';
import { FindingLine, keyOf } from '../parts/finding-line.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { lasting } from '../parts/words.ts';

type Evidence = BuildReply['evidence'];

/** What is known of a build's result beside its bytes: tests, findings, outputs that differ. */
export function EvidencePanes({ evidence }: { readonly evidence: Evidence }) {
  const { tests, findings, inspection, differences } = evidence;
  const isInspected = inspection !== null || findings.length + differences.length > 0;
  if (tests.length === 0 && !isInspected) return null;
  return (
    <div className="mt-4 grid gap-6 border-t border-rule pt-3 lg:grid-cols-2">
      {tests.length === 0 ? null : <Tests evidence={evidence} />}
      {isInspected ? <Findings evidence={evidence} /> : null}
    </div>
  );
}

function Tests({ evidence }: { readonly evidence: Evidence }) {
  const { tests, flaky } = evidence;
  const sum = (count: (report: Evidence['tests'][number]) => number): number =>
    tests.reduce((all, report) => all + count(report), 0);
  const failures = tests.flatMap((report) => report.failures);
  const slowest = tests
    .flatMap((report) => report.slowest)
    .toSorted((a, b) => b.tookMs - a.tookMs)
    .slice(0, 3);
  const failed = sum((report) => report.failed);
  const passed = sum((report) => report.total - report.failed - report.skipped);
  return (
    <section aria-label="Tests" className="min-w-0">
      <h2 className="pb-1">
        <b className="font-[650]">Tests</b>{' '}
        <span className="text-ink-2">
          {passed} of {sum((report) => report.total)} passed
          {failed === 0 ? '' : `, ${failed} failed`}, {lasting(sum((report) => report.tookMs))}
        </span>
      </h2>
      <ul>
        {failures.slice(0, 8).map((one) => (
          <li key={one.name} className="border-t border-rule py-1">
            <Glyph name="failed" /> <b className="font-[650]">{one.name}</b>
            <code className="block truncate pl-4" title={one.message ?? ''}>
              {one.message ?? 'failed'}
            </code>
            {one.place === null ? null : <code className="block pl-4 text-ink-2">{one.place}</code>}
          </li>
        ))}
        {flaky.slice(0, 5).map((one) => (
          <li key={one.name} className="border-t border-rule py-1">
            <Glyph name="flaky" /> {one.name}{' '}
            <span className="text-warn">
              flaky: failed {one.failed} of the last {one.of} runs
            </span>
          </li>
        ))}
        {slowest.length === 0 ? null : (
          <li className="border-t border-rule py-1 text-ink-2">
            slowest: {slowest.map((one) => `${one.name}, ${lasting(one.tookMs)}`).join('; ')}
          </li>
        )}
      </ul>
    </section>
  );
}

const mostShown = 12;

function Findings({ evidence }: { readonly evidence: Evidence }) {
  const { inspection, differences } = evidence;
  const all = findingsOf(evidence);
  return (
    <section aria-label="Findings" className="min-w-0">
      <h2 className="pb-1">
        <b className="font-[650]">Findings</b>{' '}
        <span className="text-ink-2">
          {all.length === 0
            ? `none: every link, asset and anchor leads somewhere, looked at in ${lasting(inspection?.tookMs ?? 0)}`
            : findingCounts(all)}
        </span>
      </h2>
      <ul>
        {differences.map((one) => (
          <li key={one.step} className="border-t border-rule py-1">
            <Glyph name="warned" /> <b className="font-[650]">not reproducible</b>{' '}
            <span className="text-ink-2">
              step {one.step}: same inputs as build {one.with ?? 'before'}, other bytes in{' '}
              {one.files.slice(0, 4).join(', ')}
            </span>
          </li>
        ))}
        {all.slice(0, mostShown).map((one) => (
          <li key={keyOf(one)} className="border-t border-rule py-1">
            <FindingLine finding={one} />
            <span className="block pl-4 text-small text-ink-2">{one.cure}</span>
          </li>
        ))}
        {all.length > mostShown ? (
          <li className="border-t border-rule py-1 text-ink-2">
            and {all.length - mostShown} more: vaquero build
          </li>
        ) : null}
      </ul>
    </section>
  );
}
