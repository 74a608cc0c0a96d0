import { axisTicks, type Instant } from '@vaquero/core';
import { clock, day } from '../parts/words.ts';
import type { LaneWindow, scaleOf } from './window-of.ts';

/** The flag of an instant is so wide, in pixels; closer to it than this no other word has room. */
const flagWidth = 96;
const besideFlag = flagWidth / 2 + 16;

interface LaneAxisProps {
  readonly window: LaneWindow;
  readonly scale: ReturnType<typeof scaleOf>;
  /** In pixels. */
  readonly width: number;
  readonly cursor: Instant | null;
}

/** The axis of time above the lanes: its words, where now is, and the flag of the instant that is pointed at. */
export function LaneAxis({ window, scale, width, cursor }: LaneAxisProps) {
  return (
    <svg className="over" aria-hidden="true">
      {axisTicks(window)
        .filter(
          (tick) =>
            scale(tick.at) + 60 < width && Math.abs(scale(tick.at) + 30 - scale(window.now)) > 40,
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
