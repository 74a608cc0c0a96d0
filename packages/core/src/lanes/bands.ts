import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';
import { type DeployKind, undoneNumbers } from '../releases/ledger.ts';

/** A deploy as the lane chart needs it. */
export interface LaneDeploy {
  readonly number: number;
  readonly kind: DeployKind;
  readonly artifact: Digest;
  readonly build: number;
  readonly committedAt: Instant;
  readonly undoes: { readonly first: number; readonly last: number } | null;
}

/** The stretch of time a chart shows; `now` lies in it, what is right of it has not happened. */
export interface ChartWindow {
  readonly from: Instant;
  readonly to: Instant;
  readonly now: Instant;
}

/** Instant to pixels from the chart's left edge. */
export type Scale = (at: Instant) => number;

/** How a band's words stand: none, the mark alone, the number below or beside it, or all in one row. */
export type BandWords = 'none' | 'mark' | 'stacked' | 'beside';

/** A band: the time an artifact was live in one lane, in pixels. */
export interface Band {
  readonly deploy: LaneDeploy;
  readonly left: number;
  readonly width: number;
  /** Cut by the left edge of the window, so it has no start line. */
  readonly cut: boolean;
  /** Still live: it ends at now and grows. */
  readonly open: boolean;
  readonly undone: boolean;
  /** The size of its brand in pixels; 0 when none fits. */
  readonly mark: 0 | 11 | 14 | 18 | 22;
  readonly words: BandWords;
  /** Instants, in pixels from the band's left edge, at which the mark is said again. */
  readonly again: readonly number[];
}

const leastWidth = 3;
const capWidth = 16;

/** What bands are laid out for. */
export interface BandLayout {
  /** The greatest mark the lane's height allows. */
  readonly largest: 18 | 22;
  /** Where a mark may be said again. */
  readonly ticks: readonly Instant[];
  /** The pixels that a band's words take behind its mark: the mark is not said again upon them. */
  readonly labelWidth: (deploy: LaneDeploy) => number;
}

/** Turns a lane's deploys, oldest first, into bands. Deploys that ended before the window are left out. */
export function bandsOf(
  deploys: readonly LaneDeploy[],
  window: ChartWindow,
  scale: Scale,
  { largest, ticks, labelWidth }: BandLayout,
): readonly Band[] {
  const undone = undoneNumbers(deploys);
  return deploys.flatMap((deploy, place) => {
    const next = deploys[place + 1];
    const end = Math.min(next?.committedAt ?? window.now, window.now);
    if (deploy.committedAt > window.now || end < window.from) return [];
    const start = scale(deploy.committedAt);
    const left = Math.max(0, start);
    const right = scale(end as Instant) - (next === undefined ? 0 : 1);
    const width = Math.max(leastWidth, right - left);
    const mark = markFor(width, largest);
    // What is live ends in a cap, which is no place for words.
    const words = wordsFor(width - (next === undefined ? capWidth : 0), mark, largest);
    return [
      {
        deploy,
        left,
        width,
        cut: start < 0,
        open: next === undefined,
        undone: undone.has(deploy.number),
        mark,
        words,
        again:
          words === 'beside'
            ? againAt(left, width, ticks.map(scale), mark + 12 + labelWidth(deploy))
            : [],
      },
    ];
  });
}

function markFor(width: number, largest: 18 | 22): Band['mark'] {
  const sizes = [22, 18, 14, 11] as const;
  return sizes.find((size) => size <= largest && width >= size + 2) ?? 0;
}

function wordsFor(width: number, mark: number, largest: number): BandWords {
  if (mark === 0) return 'none';
  if (mark < largest || width < mark + 48) return 'mark';
  return width < (largest === 22 ? 132 : 104) ? 'stacked' : 'beside';
}

/** The mark is said again only clear of the words, and of the cap that a band still live bears at its end. */
function againAt(
  left: number,
  width: number,
  ticks: readonly number[],
  wordsEnd: number,
): readonly number[] {
  return ticks.map((tick) => tick - left).filter((at) => at > wordsEnd + 14 && at < width - 24);
}

/** A thread: the same bytes rising from one lane into another at one instant; `times` when several share a column. */
export interface Thread {
  readonly x: number;
  readonly artifact: Digest;
  readonly times: number;
}

/** Threads between two lanes: for each promotion into `upper` of an artifact that `lower` was serving then. */
export function threadsBetween(
  lower: readonly LaneDeploy[],
  upper: readonly LaneDeploy[],
  window: ChartWindow,
  scale: Scale,
): readonly Thread[] {
  const columns = new Map<number, Thread>();
  for (const deploy of upper) {
    if (deploy.committedAt < window.from || deploy.committedAt > window.now) continue;
    if (deploy.kind !== 'promoted') continue;
    const source = lower.findLast((each) => each.committedAt <= deploy.committedAt);
    if (source?.artifact !== deploy.artifact) continue;
    const x = scale(deploy.committedAt);
    const column = Math.floor(x / 4);
    const there = columns.get(column);
    columns.set(column, { x, artifact: deploy.artifact, times: (there?.times ?? 0) + 1 });
  }
  return [...columns.values()];
}

/** A stretch of a rail in pixels, such as the time of a hold; open to the right while it lasts. */
export interface RailStretch {
  readonly left: number;
  readonly right: number;
  readonly open: boolean;
}

/** The stretches of a lane's holds within the window. */
export function railOf(
  holds: readonly { readonly since: Instant; readonly liftedAt: Instant | null }[],
  window: ChartWindow,
  scale: Scale,
): readonly RailStretch[] {
  return holds
    .filter((hold) => (hold.liftedAt ?? window.now) >= window.from && hold.since <= window.now)
    .map((hold) => ({
      left: Math.max(0, scale(hold.since)),
      right: scale(hold.liftedAt ?? window.to),
      open: hold.liftedAt === null,
    }));
}
