import { axisTicks, type Instant, type Scale } from '@vaquero/core';
import type { LaneWindow } from './window-of.ts';

/** Weekends, days, what is ahead, now, and the cursor. */
export function Ground({
  window,
  scale,
  width,
  cursor,
}: {
  readonly window: LaneWindow;
  readonly scale: Scale;
  readonly width: number;
  readonly cursor: Instant | null;
}) {
  const now = scale(window.now);
  const ticks = axisTicks(window);
  return (
    <svg className="under" aria-hidden="true">
      {ticks.map((tick, place) =>
        tick.weekend ? (
          <rect
            key={tick.at}
            className="weekend"
            x={scale(tick.at)}
            y="0"
            width={Math.max(0, scale(ticks[place + 1]?.at ?? window.to) - scale(tick.at))}
            height="100%"
          />
        ) : null,
      )}
      <rect className="ahead" x={now} y="0" width={Math.max(0, width - now)} height="100%" />
      {ticks.map((tick) => (
        <line
          key={tick.at}
          className="grid-line"
          x1={scale(tick.at)}
          x2={scale(tick.at)}
          y1="0"
          y2="100%"
        />
      ))}
      {window.isPast ? null : <line className="now-line" x1={now} x2={now} y1="0" y2="100%" />}
      {cursor === null ? null : (
        <line className="cursor-line" x1={scale(cursor)} x2={scale(cursor)} y1="0" y2="100%" />
      )}
    </svg>
  );
}
