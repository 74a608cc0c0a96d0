import type { DeploySeen, LaneReply } from '@vaquero/contracts';
import { type ChartWindow, type Instant, type LaneDeploy, later, type Scale } from '@vaquero/core';
import { scaleUtc } from 'd3-scale';

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;

/** How much time the lanes may show, shortest first. */
export const spans = [
  { key: '1h', ms: hourMs, says: '1 hour' },
  { key: '6h', ms: 6 * hourMs, says: '6 hours' },
  { key: '1d', ms: dayMs, says: '1 day' },
  { key: '7d', ms: 7 * dayMs, says: '7 days' },
  { key: '30d', ms: 30 * dayMs, says: '30 days' },
] as const;
export type Span = (typeof spans)[number];
export const usualSpan: Span = spans[3];

/** What the lanes show: so much time, up to an instant; null: up to the present, and a little ahead. */
export interface Shown {
  readonly span: Span;
  readonly until: Instant | null;
}

/** A stretch of the lanes; `isPast` where it ends before the present. */
export interface LaneWindow extends ChartWindow {
  readonly isPast: boolean;
}

/** The stretch that is shown. Of one that ends before the present nothing is drawn behind its end. */
export function windowOf(now: Instant, { span, until }: Shown): LaneWindow {
  return until === null || until >= now
    ? { from: later(now, -span.ms), to: later(now, span.ms / 7), now, isPast: false }
    : { from: later(until, -span.ms), to: until, now: until, isPast: true };
}

/** Instants of a window to pixels of a width. */
export function scaleOf(
  window: ChartWindow,
  width: number,
): Scale & { readonly invert: (x: number) => Instant } {
  const scale = scaleUtc().domain([window.from, window.to]).range([0, width]);
  return Object.assign((at: Instant) => scale(at), {
    invert: (x: number) => scale.invert(x).getTime() as Instant,
  });
}

/** A lane as the chart draws it. */
export type Lane = LaneReply['environments'][number];

/** A lane's ledger as core's geometry takes it. */
export function deploysOf(lane: Lane): readonly LaneDeploy[] {
  return lane.ledger.map((deploy: DeploySeen) => ({
    number: deploy.number,
    kind: deploy.kind,
    artifact: deploy.artifact,
    build: deploy.build,
    committedAt: deploy.committedAt,
    undoes:
      deploy.undoes === null ? null : { first: deploy.undoes.first, last: deploy.undoes.last },
  }));
}
