import type { LaneReply } from '@vaquero/contracts';
import { axisStep, axisTicks, type Instant, later, threadsBetween } from '@vaquero/core';
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import { clock, day } from '../parts/words.ts';
import { Ground } from './lane-ground.tsx';
import { LaneMiddle } from './lane-middle.tsx';
import { LaneLeft, LaneRight } from './lane-sides.tsx';
import type { Showing } from './shown.ts';
import { TurnedChart } from './turned-chart.tsx';
import { useWidth } from './use-width.ts';
import { deploysOf, type LaneWindow, scaleOf, usualSpan, windowOf } from './window-of.ts';

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

/** The flag of an instant is so wide, in pixels; closer to it than this no other word has room. */
const flagWidth = 96;
const besideFlag = flagWidth / 2 + 16;

/** The lane chart over the stretch that is shown: one lane for each environment, bands, threads, rails, and what waits. */
export function LaneChart(props: LaneChartProps) {
  const { lanes, project, onCursor, pinned, onPin, showing } = props;
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
    if (event.key === 'Escape') {
      onCursor(null);
      onPin(null);
    }
    // Enter on a band opens its build; on the chart itself it pins the instant, or lets it go.
    if (event.key === 'Enter' && event.target === chart.current) {
      onPin(cursor === pinned ? null : cursor);
      onCursor(null);
    }
    if (showsOther(event.key, showing, cursor)) event.preventDefault();
    if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return;
    event.preventDefault();
    const back = event.key === 'ArrowLeft';
    onCursor(
      event.shiftKey
        ? nextDeploy(lanes, cursor ?? window.now, back)
        : within(
            later(cursor ?? window.now, back ? -axisStep(window) : axisStep(window)),
            window.from,
            window.now,
          ),
    );
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
        <div className="chart-row">
          <div className="axis-left" />
          <div className="mid h-10" ref={axis}>
            <svg className="over" aria-hidden="true">
              {axisTicks(window)
                .filter(
                  (tick) =>
                    scale(tick.at) + 60 < width &&
                    Math.abs(scale(tick.at) + 30 - scale(window.now)) > 40,
                )
                .map((tick) => (
                  <text key={tick.at} className="axis-text" x={scale(tick.at) + 4} y="34">
                    {tick.isDay ? day(tick.at) : clock(tick.at)}
                  </text>
                ))}
              {window.isPast ||
              (cursor !== null && scale(window.now) - scale(cursor) < besideFlag) ? null : (
                <text className="axis-text" x={scale(window.now)} y="16" textAnchor="middle">
                  now
                </text>
              )}
              {window.isPast ? null : (
                <line
                  className="now-line"
                  x1={scale(window.now)}
                  x2={scale(window.now)}
                  y1="20"
                  y2="100%"
                />
              )}
              {cursor === null ? null : <CursorFlag x={scale(cursor)} at={cursor} />}
            </svg>
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

function CursorFlag({ x, at }: { readonly x: number; readonly at: Instant }) {
  return (
    <g>
      <rect x={x - flagWidth / 2} y="4" width={flagWidth} height="17" rx="2" fill="var(--action)" />
      <text
        className="axis-text"
        style={{ fill: 'var(--on-action)' }}
        x={x}
        y="16"
        textAnchor="middle"
      >{`${day(at)} ${clock(at)}`}</text>
      <line className="cursor-line" x1={x} x2={x} y1="21" y2="100%" />
    </g>
  );
}

function isWithin(at: Instant | null, { from, to }: LaneWindow): boolean {
  return at !== null && at >= from && at <= to;
}

function within(at: Instant, from: Instant, to: Instant): Instant {
  return at < from ? from : at > to ? to : at;
}

/** Shows less or more time, or what was earlier or later, where a key says so. */
function showsOther(key: string, showing: Showing, cursor: Instant | null): boolean {
  if (key === '+') showing.zoom(-1, cursor);
  else if (key === '-') showing.zoom(1, cursor);
  else if (key === '0') showing.show(usualSpan, cursor);
  else if (key === 'PageUp') showing.pan(-1);
  else if (key === 'PageDown') showing.pan(1);
  else return false;
  return true;
}

/** The instant of the deploy before or after another, over all lanes. */
function nextDeploy(lanes: LaneReply, at: Instant, back: boolean): Instant {
  const instants = lanes.environments
    .flatMap((lane) => lane.ledger.map((deploy) => deploy.committedAt))
    .sort((a, b) => a - b);
  return (back ? instants.findLast((each) => each < at) : instants.find((each) => each > at)) ?? at;
}
