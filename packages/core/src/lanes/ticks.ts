import type { Instant } from '../instant.ts';
import type { ChartWindow } from './bands.ts';

const dayMs = 86_400_000;

/** A day of the axis: where it begins and whether it is a Saturday or Sunday (UTC). */
export interface DayTick {
  readonly at: Instant;
  readonly weekend: boolean;
}

/** The days that begin within a window, UTC, oldest first. 1970-01-01 was a Thursday. */
export function dayTicks(window: ChartWindow): readonly DayTick[] {
  const ticks: DayTick[] = [];
  for (let at = Math.ceil(window.from / dayMs) * dayMs; at <= window.to; at += dayMs) {
    const weekday = (at / dayMs + 4) % 7;
    ticks.push({ at: at as Instant, weekend: weekday === 0 || weekday === 6 });
  }
  return ticks;
}
