import type { DeploySeen, LaneReply } from '@vaquero/contracts';
import { type ChartWindow, type Instant, type LaneDeploy, later, type Scale } from '@vaquero/core';
import { scaleUtc } from 'd3-scale';

const dayMs = 86_400_000;

/** Seven days back and one ahead. */
export function windowOf(now: Instant): ChartWindow {
  return { from: later(now, -7 * dayMs), to: later(now, dayMs), now };
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
