import type { Instant } from '../instant.ts';
import type { ChartWindow } from './bands.ts';

const minuteMs = 60_000;
const hourMs = 60 * minuteMs;
const dayMs = 24 * hourMs;

/** A line of the axis: where it stands, whether it begins a day, and whether that is a Saturday or Sunday (UTC). */
export interface AxisTick {
  readonly at: Instant;
  readonly isDay: boolean;
  /** The whole stretch to the next line is a day of a weekend. */
  readonly weekend: boolean;
}

/** How far the lines of the axis are apart, in milliseconds: by the longest stretch that a step is drawn for. */
const steps: readonly (readonly [longest: number, step: number])[] = [
  [2 * hourMs, 10 * minuteMs],
  [8 * hourMs, hourMs],
  [30 * hourMs, 3 * hourMs],
  [12 * dayMs, dayMs],
];

/** How far the lines of a window are apart; above twelve days they are Mondays. */
export function axisStep({ from, to }: Pick<ChartWindow, 'from' | 'to'>): number {
  return steps.find(([longest]) => to - from <= longest)?.[1] ?? 7 * dayMs;
}

/** The lines of a window's axis, UTC, oldest first. 1970-01-01 was a Thursday, so weeks begin four days on. */
export function axisTicks(window: ChartWindow): readonly AxisTick[] {
  const step = axisStep(window);
  const begin = step > dayMs ? 4 * dayMs : 0;
  const ticks: AxisTick[] = [];
  for (
    let at = Math.ceil((window.from - begin) / step) * step + begin;
    at <= window.to;
    at += step
  ) {
    const weekday = (Math.floor(at / dayMs) + 4) % 7;
    ticks.push({
      at: at as Instant,
      isDay: at % dayMs === 0,
      weekend: step === dayMs && (weekday === 0 || weekday === 6),
    });
  }
  return ticks;
}
