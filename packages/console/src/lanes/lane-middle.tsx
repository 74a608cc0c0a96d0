import type { DeploySeen } from '@vaquero/contracts';
import {
  axisTicks,
  bandsOf,
  brandOf,
  type Instant,
  placeWords,
  type RailStretch,
  railOf,
  type Scale,
  threadsBetween,
} from '@vaquero/core';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { clock } from '../parts/words.ts';
import { BandLink } from './band-link.tsx';
import { deploysOf, type Lane, type LaneWindow } from './window-of.ts';

/** Heights of a lane in pixels: rail, band, and the row of event words below it. */
export const laneHeights = {
  production: { rail: 38, band: 66 },
  other: { rail: 22, band: 52 },
} as const;

interface LaneMiddleProps {
  readonly lane: Lane;
  readonly lower: Lane | undefined;
  readonly upper: Lane | undefined;
  readonly project: string;
  readonly window: LaneWindow;
  readonly scale: Scale;
  readonly width: number;
  readonly cursor: Instant | null;
  readonly isTop: boolean;
  readonly tabStop: number | null;
}

/** The middle of a lane: its bands over time, the rail of its holds, and the threads to the lanes beside it. */
export function LaneMiddle({
  lane,
  lower,
  upper,
  project,
  window,
  scale,
  width,
  cursor,
  isTop,
  tabStop,
}: LaneMiddleProps) {
  const size = isTop ? 22 : 18;
  const { rail, band: height } = isTop ? laneHeights.production : laneHeights.other;
  const deploys = deploysOf(lane);
  const views = new Map(lane.ledger.map((deploy) => [deploy.number, deploy]));
  // A serif letter at 12 px is about 6.2 wide; the words never take less than number and digest do.
  const labelWidth = ({ number }: { readonly number: number }): number =>
    Math.max(100, (views.get(number)?.subject.length ?? 0) * 6.2);
  const bands = bandsOf(deploys, window, scale, {
    largest: size,
    ticks: axisTicks(window).map((tick) => tick.at),
    labelWidth,
  });
  const x = scale(window.now);
  const serves = lane.serves;
  return (
    <>
      <Ground window={window} scale={scale} width={width} cursor={cursor} />
      {bands.map((band, place) => {
        const deploy = views.get(band.deploy.number);
        if (deploy === undefined) return null;
        return (
          <BandLink
            key={deploy.number}
            band={band}
            deploy={deploy}
            project={project}
            until={bands[place + 1]?.deploy.committedAt ?? null}
            size={size}
            style={{ left: band.left, top: rail, width: band.width, height }}
            isTabStop={tabStop === deploy.number}
          />
        );
      })}
      {serves === null || window.isPast ? null : (
        <span
          className={`cap hue-${brandOf(serves.artifact).hue}`}
          style={{ left: x - 9, top: rail, height }}
        />
      )}
      {window.isPast ? null : (
        <Ghost lane={lane} left={x} top={rail} height={height} width={width - x} />
      )}
      <svg className="over" aria-hidden="true">
        {isTop || lane.holds.length > 0 ? (
          <line className="rail" x1="0" x2={width} y1={rail - 18} y2={rail - 18} />
        ) : null}
        {railOf(lane.holds, window, scale).map((stretch) => (
          <Hold key={stretch.left} stretch={stretch} y={rail - 21} />
        ))}
        {lower === undefined
          ? null
          : threadsBetween(deploysOf(lower), deploys, window, scale).map((thread) => (
              <g key={thread.x}>
                <line
                  className="thread"
                  x1={thread.x}
                  x2={thread.x}
                  y1={rail + height + 5}
                  y2="100%"
                />
                <path
                  className="knot"
                  d={`M${thread.x - 3.6} ${rail + height + 6}L${thread.x} ${rail + height}L${thread.x + 3.6} ${rail + height + 6}z`}
                />
              </g>
            ))}
        {upper === undefined
          ? null
          : threadsBetween(deploys, deploysOf(upper), window, scale).map((thread) => (
              <g key={thread.x}>
                <line className="thread" x1={thread.x} x2={thread.x} y1="0" y2={rail} />
                <circle
                  className="knot"
                  cx={thread.x}
                  cy={rail}
                  r="2.8"
                  stroke="var(--paper)"
                  strokeWidth="1.2"
                />
              </g>
            ))}
        <Arcs
          ledger={lane.ledger.filter((deploy) => isIn(deploy, window))}
          scale={scale}
          y={rail}
        />
        <EventWords lane={lane} scale={scale} width={x} y={rail + height + 14} window={window} />
        {serves === null || window.isPast ? null : (
          <circle
            cx={x}
            cy={rail + height / 2}
            r="4.6"
            fill="var(--good)"
            stroke="var(--paper)"
            strokeWidth="1.4"
          />
        )}
      </svg>
    </>
  );
}

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

function Ghost({
  lane,
  left,
  top,
  height,
  width,
}: {
  readonly lane: Lane;
  readonly left: number;
  readonly top: number;
  readonly height: number;
  readonly width: number;
}) {
  const { waits, hold } = lane;
  if (waits.kind === 'nothing' || width < 20) return null;
  return (
    <span
      className="ghost"
      style={{ left: left + 8, top: top + 4, height: height - 8, width: width - 8 }}
    >
      {waits.kind === 'artifact' || waits.kind === 'offer' ? (
        <BrandMark digest={waits.artifact} size={14} />
      ) : (
        <Unbranded size={14} />
      )}
      <b className="font-[600]">{waits.build}</b>
      {hold === null ? null : <span className="text-warn">held</span>}
    </span>
  );
}

function Hold({ stretch, y }: { readonly stretch: RailStretch; readonly y: number }) {
  const { left, right, open } = stretch;
  return (
    <g>
      <rect x={left} y={y} width={Math.max(2, right - left)} height="6" fill="url(#hatch)" />
      <path className="hold-end" d={`M${left} ${y - 2}v10${open ? '' : `M${right} ${y - 2}v10`}`} />
    </g>
  );
}

/** A roll back is an arc from its instant back over what it undid; too narrow for an arc, its hook stands alone. */
function Arcs({
  ledger,
  scale,
  y,
}: {
  readonly ledger: readonly DeploySeen[];
  readonly scale: Scale;
  readonly y: number;
}) {
  return ledger
    .filter((deploy) => deploy.undoes !== null)
    .map((deploy) => {
      const from = scale(deploy.committedAt);
      const first = ledger.find((each) => each.number === deploy.undoes?.first);
      const to = first === undefined ? from : scale(first.committedAt);
      if (from - to < 14)
        return (
          <path
            key={deploy.number}
            className="arc"
            d={`M${from - 4} ${y - 11}l-3 3 3 3M${from - 7} ${y - 8}h5a3 3 0 0 1 0 6`}
          />
        );
      return (
        <g key={deploy.number}>
          <path
            className="arc"
            d={`M${from} ${y - 1}C${from} ${y - 14} ${to} ${y - 14} ${to + 1} ${y - 3}`}
          />
          <path d={`M${to - 2.6} ${y - 6}l3.4 5.4 3.2-5.2z`} fill="var(--ink)" />
        </g>
      );
    });
}

/** Whether a deploy began within what is shown. */
function isIn({ committedAt }: DeploySeen, { from, now }: LaneWindow): boolean {
  return committedAt >= from && committedAt <= now;
}

interface Event {
  readonly key: string;
  readonly text: string;
  readonly below: string;
  readonly at: Instant;
  readonly rank: number;
}

function EventWords({
  lane,
  scale,
  width,
  y,
  window,
}: {
  readonly lane: Lane;
  readonly scale: Scale;
  readonly width: number;
  readonly y: number;
  readonly window: LaneWindow;
}) {
  const events = lane.ledger.flatMap((deploy): readonly Event[] => {
    if (!isIn(deploy, window)) return [];
    if (deploy.kind === 'rolled-back')
      return [
        {
          key: `r${deploy.number}`,
          text: `rolled back ${clock(deploy.committedAt)}`,
          below: deploy.by,
          at: deploy.committedAt,
          rank: 0,
        },
      ];
    return deploy.kind === 'promoted'
      ? [
          {
            key: `p${deploy.number}`,
            text: clock(deploy.committedAt),
            below: '',
            at: deploy.committedAt,
            rank: 1,
          },
        ]
      : [];
  });
  const byKey = new Map(events.map((event) => [event.key, event]));
  const wanted = events.map((event) => ({
    key: event.key,
    x: scale(event.at) + 7,
    width: Math.max(event.text.length, event.below.length) * 6 + 4,
    rank: event.rank,
  }));
  return placeWords(wanted, width, 6).map(({ key, x }) => {
    const event = byKey.get(key);
    return event === undefined ? null : (
      <text
        key={key}
        className={event.rank === 0 ? 'event-text' : 'event-text event-quiet'}
        x={x}
        y={y}
      >
        {event.text}
        {event.below === '' ? null : (
          <tspan x={x} dy="13" className="event-quiet">
            {event.below}
          </tspan>
        )}
      </text>
    );
  });
}
