import type { LaneReply } from '@vaquero/contracts';
import { type Instant, threadsBetween } from '@vaquero/core';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import { clock, day } from '../parts/words.ts';
import { LaneAxis } from './lane-axis.tsx';
import { Ground } from './lane-ground.tsx';
import { actsOnKey } from './lane-keys.ts';
import { LaneMiddle } from './lane-middle.tsx';
import { LaneLeft, LaneRight } from './lane-sides.tsx';
import type { Showing } from './shown.ts';
import { TurnedChart } from './turned-chart.tsx';
import { useWidth } from './use-width.ts';
import { deploysOf, type LaneWindow, scaleOf, windowOf } from './window-of.ts';

interface LaneChartProps {
  readonly lanes: LaneReply;
  readonly project: string;
  readonly cursor: Instant | null;
  readonly onCursor: (at: Instant | null) => void;
  /** The instant that stays when the cursor goes. */
  readonly pinned: Instant | null;
  readonly onPin: (at: Instant | null) => void;
  readonly showing: Showing;
}

/** The lane chart over the stretch that is shown: one lane for each environment, bands, threads, rails, and what waits. */
export function LaneChart(props: LaneChartProps) {
  const { lanes, project, onCursor, onPin, showing } = props;
  const [axis, width] = useWidth<HTMLDivElement>();
  const chart = useRef<HTMLElement>(null);
  const window = windowOf(lanes.now, showing);
  // An instant that is not in sight has no line.
  const cursor = isWithin(props.cursor, window) ? props.cursor : null;
  const scale = scaleOf(window, width);
  const { environments } = lanes;
  /** Where threads rise into a lane from the one below it. */
  const into = (place: number): readonly number[] => {
    const [upper, lower] = [environments[place], environments[place + 1]];
    return upper === undefined || lower === undefined || width === 0
      ? []
      : threadsBetween(deploysOf(lower), deploysOf(upper), window, scale).map(({ x }) => x);
  };

  const point = (event: PointerEvent<HTMLElement>): void => {
    const box = axis.current?.getBoundingClientRect();
    if (box === undefined || event.pointerType === 'touch') return;
    const x = event.clientX - box.left;
    onCursor(x < 0 || x > scale(window.now) ? null : scale.invert(x));
  };
  const keys = (event: KeyboardEvent<HTMLElement>): void => {
    const isOnChart = event.target === chart.current;
    if (actsOnKey(event, isOnChart, props, window, cursor)) event.preventDefault();
  };

  return (
    <>
      <section
        ref={chart}
        className="chart"
        aria-label={`Lanes over ${showing.span.says}${window.isPast ? `, up to ${day(window.to)} ${clock(window.to)}` : ''}; left and right arrow move the instant, with Shift from deploy to deploy; Enter pins it, Escape lets it go; plus and minus show less and more time, Page Up and Page Down earlier and later`}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the chart is one tab stop whose arrow keys move the cursor; the table below says what it points at.
        tabIndex={0}
        onPointerMove={point}
        onPointerLeave={() => onCursor(null)}
        onClick={(event) => {
          // A press on the ground pins what the pointer is at; bands and buttons have their own acts.
          if (
            event.target instanceof Element &&
            event.target.closest('.mid') !== null &&
            event.target.closest('a, button') === null &&
            cursor !== null
          )
            onPin(cursor);
        }}
        onKeyDown={keys}
      >
        <Hatch />
        <div className="chart-row">
          <div className="axis-left" />
          <div className="mid h-10" ref={axis}>
            <LaneAxis window={window} scale={scale} width={width} cursor={cursor} />
          </div>
          <div className="axis-right self-end pb-1 text-ink-2">Waits to come in</div>
        </div>
        {environments.map((lane, place) => (
          <div className="chart-row" key={lane.name}>
            <LaneLeft lane={lane} project={project} now={lanes.now} threads={into(place - 1)} />
            <div className="mid" style={{ minHeight: place === 0 ? 152 : 122 }}>
              {width === 0 ? (
                <Ground window={window} scale={scale} width={width} cursor={null} />
              ) : (
                <LaneMiddle
                  lane={lane}
                  lower={environments[place + 1]}
                  upper={environments[place - 1]}
                  project={project}
                  window={window}
                  scale={scale}
                  width={width}
                  cursor={cursor}
                  isTop={place === 0}
                  tabStop={lane.serves?.number ?? null}
                />
              )}
            </div>
            <LaneRight
              lane={lane}
              lanes={environments}
              project={project}
              now={lanes.now}
              threads={into(place)}
            />
          </div>
        ))}
      </section>
      <TurnedChart lanes={lanes} project={project} />
    </>
  );
}

function isWithin(at: Instant | null, { from, to }: LaneWindow): boolean {
  return at !== null && at >= from && at <= to;
}

/** What hatched bands are filled with, named for the whole chart. */
function Hatch() {
  return (
    <svg width="0" height="0" className="absolute" aria-hidden="true" data-defs>
      <defs>
        <pattern
          id="hatch"
          width="5"
          height="5"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width="5" height="5" fill="var(--warn-fill)" />
          <path d="M0 0V5" stroke="var(--ink)" strokeWidth="1.6" opacity=".62" />
        </pattern>
      </defs>
    </svg>
  );
}
