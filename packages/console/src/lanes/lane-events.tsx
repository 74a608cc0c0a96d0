import type { DeploySeen } from '@vaquero/contracts';
import { type Instant, placeWords, type Scale } from '@vaquero/core';
import { clock } from '../parts/words.ts';
import type { Lane, LaneWindow } from './window-of.ts';

/** A roll back is an arc from its instant back over what it undid; too narrow for an arc, its hook stands alone. */
export function Arcs({
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
export function isIn({ committedAt }: DeploySeen, { from, now }: LaneWindow): boolean {
  return committedAt >= from && committedAt <= now;
}

interface Event {
  readonly key: string;
  readonly text: string;
  readonly below: string;
  readonly at: Instant;
  readonly rank: number;
}

/** What happened to a lane, in words below its bands, as far as they have room. */
export function EventWords({
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
