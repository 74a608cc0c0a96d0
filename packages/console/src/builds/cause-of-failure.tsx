import type { BuildReply } from '@vaquero/contracts';
import { authorInWords, counted, nameOfRef } from '@vaquero/core';
import { Glyph } from '../parts/glyph.tsx';

import { OnePress } from './one-press.tsx';

/** What failed, the line that tells it, what changed, and what to do: before everything else. */
export function CauseOfFailure({
  project,
  build,
}: {
  readonly project: string;
  readonly build: BuildReply;
}) {
  const { failure, tellingLine, lastGood, explanation } = build;
  const failed = build.steps.filter((one) => one.state === 'failed').map((one) => one.name);
  const step = build.reason?.reason === 'step' ? build.reason.step : failed[0];
  const others = failed.filter((name) => name !== step);
  return (
    <section
      aria-label="Why it failed"
      className="mb-3 grid border-t-2 border-bad py-2 md:grid-cols-[10rem_minmax(0,1.4fr)_minmax(0,1.2fr)_minmax(0,1fr)] [&>div]:border-rule [&>div]:px-3.5 md:[&>div+div]:border-l md:[&>div:first-child]:pl-0"
    >
      <div>
        <h2 className="text-ink-2">What failed</h2>
        <p className="text-place font-[650]">
          <Glyph name="failed" /> {step ?? 'before any step'}
        </p>
        <p>{failure?.what}</p>
        {others.length === 0 ? null : <p>{others.join(' and ')} failed too.</p>}
        {explanation?.cause == null ? null : (
          <p className="text-ink-2">likely cause: {explanation.cause}</p>
        )}
      </div>
      <div>
        <h2 className="text-ink-2">
          {tellingLine === null ? 'Why' : `First telling line, ${tellingLine.number}`}
        </h2>
        {tellingLine === null ? (
          <p>{failure?.why}</p>
        ) : (
          <a
            href={`#line-${tellingLine.number}`}
            className="mt-0.5 block border-l-4 border-bad bg-bad-wash px-2 py-1 font-mono text-small text-ink no-underline [overflow-wrap:anywhere]"
          >
            {tellingLine.text}
          </a>
        )}
      </div>
      <div>
        <h2 className="text-ink-2">
          {lastGood === null
            ? 'No good build before this one'
            : `Changed since build ${lastGood.number}, which passed: ${counted(lastGood.commits.length, 'commit')}, ${counted(lastGood.changed.length, 'file')}`}
        </h2>
        {lastGood === null || lastGood.commits.length < 2 ? null : (
          <ul>
            {lastGood.commits.slice(0, 3).map((one) => (
              <li key={one.id} className="truncate">
                <code>{one.id.slice(0, 8)}</code> <span className="said">{one.subject}</span>,{' '}
                {authorInWords(one)}
              </li>
            ))}
          </ul>
        )}
        <ul>
          {lastGood?.changed.slice(0, 5).map((file) => (
            <li key={file.path} className="flex justify-between gap-2">
              <code className="truncate" title={file.path}>
                {file.path}
              </code>
              <span className="whitespace-nowrap text-ink-2">
                +{file.added ?? '?'} −{file.removed ?? '?'}
              </span>
            </li>
          ))}
          {lastGood?.packages.slice(0, 5).map((one) => (
            <li key={one.name} className="flex justify-between gap-2">
              <span className="truncate">
                package <code>{one.name}</code>
              </span>
              <span className="whitespace-nowrap text-ink-2">
                {one.before ?? 'not there'}, now {one.now ?? 'gone'}
              </span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h2 className="text-ink-2">What to do next</h2>
        <p>{explanation?.next ?? failure?.next}</p>
        <OnePress project={project} build={build} />
        {explanation?.elsewhere.map((other) => (
          <p key={other.build} className="text-ink-2">
            Build {other.build} of {nameOfRef(other.ref)} fails in the same step: it may not be this
            commit’s fault.
          </p>
        ))}
        {explanation?.tools.map((tool) => (
          <p key={tool.name} className="text-ink-2">
            {tool.name} was {tool.before}, is {tool.now}
          </p>
        ))}
      </div>
    </section>
  );
}
