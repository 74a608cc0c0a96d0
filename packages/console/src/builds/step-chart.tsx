import type { BuildReply } from '@vaquero/contracts';
import { type Descent, descents } from '@vaquero/core';
import { scaleLinear } from 'd3-scale';
import { useWidth } from '../lanes/use-width.ts';
import { Glyph } from '../parts/glyph.tsx';
import { lasting, mark } from '../parts/words.ts';
import { whyItRan } from './why-it-ran.ts';

type State = BuildReply['steps'][number]['state'];

interface Row {
  readonly name: string;
  readonly says: string;
  readonly state: State;
  readonly startedAt: number | null;
  readonly endedAt: number | null;
  readonly critical: boolean;
  readonly expected: BuildReply['steps'][number]['expected'];
  readonly reused: BuildReply['steps'][number]['reused'];
  readonly tries: number;
  readonly why: readonly string[];
}

const height = 40;
const bar = { top: 10, height: 14 } as const;
/** Room right of the last bar for what is said of it. */
const words = 92;

/** The steps of a build on one time axis, the critical path drawn under them, and why each ran or did not. */
export function StepChart({ build, now }: { readonly build: BuildReply; readonly now: number }) {
  const [axis, width] = useWidth<HTMLDivElement>();
  const zero = build.queuedAt;
  const rows = rowsOf(build);
  const end = Math.max(
    ...build.steps.map((step) => step.endedAt ?? step.startedAt ?? zero),
    ...build.steps.map((step) => step.expected?.endsAt ?? zero),
    build.endedAt ?? now,
    // While nothing has taken any time yet there is an axis all the same.
    zero + (build.endedAt === null ? 1000 : 50),
  );
  const scale = scaleLinear()
    .domain([0, end - zero])
    .range([0, Math.max(0, width - words)])
    .nice(4);
  const ticks = scale.ticks(4);
  const path = descents(rows.map((row) => ({ ...row, endedAt: row.endedAt ?? now })));
  return (
    <section aria-label="Steps" className="min-w-0">
      <h2 className="pb-1">
        <b className="font-[650]">Steps</b>{' '}
        <span className="text-ink-2">
          {build.startedAt === null
            ? 'not begun'
            : `${lasting((build.endedAt ?? now) - build.queuedAt)} in all`}
        </span>
      </h2>
      <div className="grid grid-cols-[9rem_minmax(0,1fr)] lg:grid-cols-[9rem_minmax(0,1fr)_minmax(0,11rem)]">
        <div />
        <div ref={axis} className="relative h-5 text-axis text-ink-2" aria-hidden="true">
          {ticks.map((tick) => (
            <span
              key={tick}
              className="absolute -translate-x-1/2 first:translate-x-0"
              style={{ left: scale(tick) }}
            >
              {mark(tick)}
            </span>
          ))}
        </div>
        <div className="pl-3 text-axis text-ink-2 max-lg:hidden">why it ran, or did not</div>
        {rows.map((row, place) => (
          <StepRow
            key={row.name}
            row={row}
            zero={zero}
            end={build.endedAt ?? now}
            x={scale}
            ticks={ticks}
            path={path[place] ?? []}
          />
        ))}
      </div>
      <Legend isOpen={build.endedAt === null} />
    </section>
  );
}

function rowsOf(build: BuildReply): readonly Row[] {
  const isQueued = build.startedAt === null;
  return [
    {
      name: 'queue',
      says: isQueued ? `${build.place?.ahead ?? 0} ahead` : 'waited for a runner',
      state: isQueued ? 'running' : 'passed',
      startedAt: build.queuedAt,
      endedAt: build.startedAt,
      critical: false,
      expected: null,
      reused: null,
      tries: 1,
      why: [],
    },
    ...build.steps.map((step) => ({ ...step, why: whyItRan(build, step) })),
  ];
}

const fills: Readonly<Record<State, string>> = {
  waiting: 'none',
  running: 'var(--action)',
  passed: 'var(--ink-2)',
  reused: 'none',
  flaky: 'var(--warn)',
  warned: 'var(--warn)',
  failed: 'var(--bad)',
  skipped: 'none',
  stopped: 'var(--rule-2)',
};

function saidOf(row: Row, end: number): string {
  if (row.reused !== null) return `reused, saved ${lasting(row.reused.tookMs)}`;
  if (row.startedAt === null) {
    if (row.expected !== null)
      return `about ${lasting(row.expected.endsAt - row.expected.startsAt)}`;
    return row.state === 'skipped' ? 'not run' : '';
  }
  const took = lasting((row.endedAt ?? end) - row.startedAt);
  if (row.state === 'stopped') return `${took}, then stopped`;
  return row.tries > 1 ? `${took}, try ${row.tries}` : took;
}

interface StepRowProps {
  readonly row: Row;
  readonly zero: number;
  readonly end: number;
  readonly x: (ms: number) => number;
  readonly ticks: readonly number[];
  readonly path: readonly Descent[];
}

function StepRow({ row, zero, end, x, ticks, path }: StepRowProps) {
  const from = row.startedAt === null ? null : x(row.startedAt - zero);
  const to = row.startedAt === null ? null : x((row.endedAt ?? end) - zero);
  const said = saidOf(row, end);
  return (
    <>
      <div className="min-w-0 border-t border-rule py-1 pr-2">
        <Glyph name={row.state} /> <b className="font-[650]">{row.name}</b>
        <span className="sr-only">, {row.state}</span>
        <span className="block truncate pl-4 text-small text-ink-2" title={row.says}>
          {row.says}
        </span>
      </div>
      <div className="relative border-t border-rule">
        <svg
          width="100%"
          height={height}
          className="overflow-visible"
          role="img"
          aria-label={`${row.name} ${row.state} ${said}${row.critical ? ', on the critical path' : ''}`}
        >
          {ticks.map((tick) => (
            <line key={tick} className="grid-line" x1={x(tick)} x2={x(tick)} y1="0" y2={height} />
          ))}
          {from === null || to === null ? null : (
            <Bar row={row} from={from} to={Math.max(to, from + 2)} />
          )}
          {row.expected === null ? null : (
            <ExpectedBar expected={row.expected} now={end} x={(at) => x(at - zero)} />
          )}
          {path.map((descent) => (
            <line
              key={`${descent.at}${descent.from}`}
              x1={x(descent.at - zero)}
              x2={x(descent.at - zero)}
              y1={descent.from === 'top' ? -1 : bar.top + bar.height + 3}
              y2={descent.to === 'bottom' ? height + 1 : bar.top + bar.height + 3}
              stroke="var(--ink)"
              strokeWidth="2"
            />
          ))}
          <text
            className="event-text"
            x={
              row.expected === null
                ? (row.reused === null ? (to ?? 0) : (from ?? 0) + 18) + 6
                : x(row.expected.endsAt - zero) + 6
            }
            y="21"
            style={row.state === 'failed' ? { fill: 'var(--bad)', fontWeight: 600 } : {}}
          >
            {said}
          </text>
        </svg>
      </div>
      <div className="min-w-0 border-t border-rule py-1 pl-3 text-small text-ink-2 max-lg:hidden">
        {row.why.map((line) => (
          <span key={line} className="block truncate" title={line}>
            {line}
          </span>
        ))}
      </div>
    </>
  );
}

/** The part of a step that is still to come, by its usual time. */
function ExpectedBar({
  expected,
  now,
  x,
}: {
  readonly expected: NonNullable<Row['expected']>;
  readonly now: number;
  readonly x: (at: number) => number;
}) {
  const from = x(Math.max(expected.startsAt, now));
  return (
    <rect
      x={from}
      y={bar.top + 0.5}
      width={Math.max(1, x(expected.endsAt) - from)}
      height={bar.height - 1}
      fill="none"
      stroke="var(--ink-2)"
      strokeDasharray="3 3"
    />
  );
}

function Bar({ row, from, to }: { readonly row: Row; readonly from: number; readonly to: number }) {
  const under = bar.top + bar.height + 3;
  const critical = row.critical ? (
    <line x1={from} x2={to} y1={under} y2={under} stroke="var(--ink)" strokeWidth="2.5" />
  ) : null;
  if (row.name === 'queue')
    return (
      <line
        x1={from}
        x2={to}
        y1="17"
        y2="17"
        stroke="var(--ink-2)"
        strokeDasharray="1.5 3"
        strokeWidth="1.5"
      />
    );
  if (row.reused !== null)
    return (
      <>
        <path
          d={`M${from} ${bar.top}h14v${bar.height}h-14zM${from + 4} ${bar.top + 5}h6M${from + 4} ${bar.top + 9}h6`}
          fill="none"
          stroke="var(--ink-2)"
          strokeWidth="1.3"
        />
        {critical}
      </>
    );
  return (
    <>
      <rect x={from} y={bar.top} width={to - from} height={bar.height} fill={fills[row.state]} />
      {critical}
    </>
  );
}

function Legend({ isOpen }: { readonly isOpen: boolean }) {
  return (
    <p className="flex flex-wrap gap-x-5 border-t border-rule pt-1.5 text-small text-ink-2">
      <span>
        <svg width="20" height="8" aria-hidden="true" className="mr-1 inline-block">
          <rect width="20" height="8" fill="var(--ink-2)" />
        </svg>
        ran
      </span>
      {isOpen ? (
        <span>
          <svg width="20" height="8" aria-hidden="true" className="mr-1 inline-block">
            <rect
              x="0.5"
              y="0.5"
              width="19"
              height="7"
              fill="none"
              stroke="var(--ink-2)"
              strokeDasharray="3 3"
            />
          </svg>
          expected, by its usual time
        </span>
      ) : null}
      <span>
        <Glyph name="reused" /> reused, time saved
      </span>
      <span>
        <svg width="20" height="8" aria-hidden="true" className="mr-1 inline-block">
          <line x2="20" y1="4" y2="4" stroke="var(--ink)" strokeWidth="2.5" />
        </svg>
        critical path: what the end hung on
      </span>
    </p>
  );
}
