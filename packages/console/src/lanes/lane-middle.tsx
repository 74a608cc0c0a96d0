import {
  axisTicks,
  bandsOf,
  brandOf,
  type Instant,
  type RailStretch,
  railOf,
  type Scale,
  threadsBetween,
} from '@vaquero/core';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { BandLink } from './band-link.tsx';
import { Arcs, EventWords, isIn } from './lane-events.tsx';
import { Ground } from './lane-ground.tsx';
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
