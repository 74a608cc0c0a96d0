import type { BuildReply } from '@vaquero/contracts';
import { scaleLinear } from 'd3-scale';
import { useWidth } from '../lanes/use-width.ts';
import { Glyph } from '../parts/glyph.tsx';
import { lasting } from '../parts/words.ts';

interface Row {
  readonly name: string;
  readonly says: string;
  readonly state: BuildReply['steps'][number]['state'];
  readonly from: number | null;
  readonly to: number | null;
}

/** The steps of a build on one time axis: the queue first, then each step from its start to its end. */
export function StepChart({ build, now }: { readonly build: BuildReply; readonly now: number }) {
  const [axis, width] = useWidth<HTMLDivElement>();
  const zero = build.queuedAt;
  const end = Math.max(
    ...build.steps.map((step) => step.endedAt ?? step.startedAt ?? zero),
    build.endedAt ?? now,
    zero + 1000,
  );
  const scale = scaleLinear()
    .domain([0, end - zero])
    .range([0, Math.max(0, width - 84)])
    .nice(4);
  const ticks = scale.ticks(4);
  const rows: readonly Row[] = [
    {
      name: 'queue',
      says: build.startedAt === null ? `${build.place?.ahead ?? 0} ahead` : 'waited for a runner',
      state: build.startedAt === null ? 'running' : 'passed',
      from: zero,
      to: build.startedAt,
    },
    ...build.steps.map((step) => ({
      name: step.name,
      says: step.says,
      state: step.state,
      from: step.startedAt,
      to: step.endedAt,
    })),
  ];
  return (
    <section aria-label="Steps" className="min-w-0">
      <h2 className="pb-1">
        <b className="font-[650]">Steps</b>{' '}
        <span className="text-ink-2">
          {build.startedAt === null
            ? 'not begun'
            : `${lasting((build.endedAt ?? now) - build.queuedAt)} in all${build.usualMs === null ? '' : `, usually about ${lasting(build.usualMs)} once begun`}`}
        </span>
      </h2>
      <div className="grid grid-cols-[9.5rem_minmax(0,1fr)]">
        <div />
        <div ref={axis} className="relative h-5 text-axis text-ink-2" aria-hidden="true">
          {ticks.map((tick) => (
            <span
              key={tick}
              className="absolute -translate-x-1/2 first:translate-x-0"
              style={{ left: scale(tick) }}
            >
              {tick === 0 ? '0' : lasting(tick)}
            </span>
          ))}
        </div>
        {rows.map((row) => (
          <StepRow key={row.name} row={row} zero={zero} end={end} x={scale} ticks={ticks} />
        ))}
      </div>
    </section>
  );
}

const fills = {
  waiting: 'none',
  running: 'var(--action)',
  passed: 'var(--ink-2)',
  reused: 'none',
  flaky: 'var(--warn)',
  warned: 'var(--warn)',
  failed: 'var(--bad)',
  skipped: 'none',
} as const;

function StepRow({
  row,
  zero,
  end,
  x,
  ticks,
}: {
  readonly row: Row;
  readonly zero: number;
  readonly end: number;
  readonly x: (ms: number) => number;
  readonly ticks: readonly number[];
}) {
  const from = row.from === null ? null : x(row.from - zero);
  const to = row.from === null ? null : x((row.to ?? end) - zero);
  const took =
    row.from === null
      ? row.state === 'skipped'
        ? 'not run'
        : ''
      : lasting((row.to ?? end) - row.from);
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
          height="40"
          className="overflow-visible"
          role="img"
          aria-label={`${row.name} ${row.state} ${took}`}
        >
          {ticks.map((tick) => (
            <line key={tick} className="grid-line" x1={x(tick)} x2={x(tick)} y1="0" y2="40" />
          ))}
          {from === null || to === null ? null : row.name === 'queue' ? (
            <line
              x1={from}
              x2={Math.max(to, from + 2)}
              y1="20"
              y2="20"
              stroke="var(--ink-2)"
              strokeDasharray="1.5 3"
              strokeWidth="1.5"
            />
          ) : (
            <rect
              x={from}
              y="13"
              width={Math.max(2, to - from)}
              height="14"
              fill={fills[row.state]}
            />
          )}
          <text
            className="event-text"
            x={(to ?? 0) + 6}
            y="24"
            style={row.state === 'failed' ? { fill: 'var(--bad)', fontWeight: 600 } : {}}
          >
            {took}
          </text>
        </svg>
      </div>
    </>
  );
}
