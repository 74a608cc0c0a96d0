import type { LaneReply } from '@vaquero/contracts';
import { axisTicks, bandsOf, type Instant } from '@vaquero/core';
import { day } from '../parts/words.ts';
import { BandLink } from './band-link.tsx';
import { deploysOf, scaleOf, usualSpan, windowOf } from './window-of.ts';

const height = 700;

/** The chart on a phone: turned a quarter, now on top, the past below. */
export function TurnedChart({
  lanes,
  project,
}: {
  readonly lanes: LaneReply;
  readonly project: string;
}) {
  const week = windowOf(lanes.now, { span: usualSpan, until: null });
  const window = { ...week, to: week.now };
  const scale = scaleOf(window, height);
  const down = (at: Instant): number => height - scale(at);
  const columns = lanes.environments.length;
  return (
    <section
      className="turned"
      style={{ height: height + 24 }}
      aria-label="Lanes over seven days, now on top"
    >
      {axisTicks(window).map((tick) => (
        <span
          key={tick.at}
          className="absolute left-0 w-full border-b border-rule text-axis font-[600]"
          style={{ top: down(tick.at) + 24 - 14 }}
        >
          {day(tick.at)}
        </span>
      ))}
      {lanes.environments.map((lane, column) => {
        const views = new Map(lane.ledger.map((deploy) => [deploy.number, deploy]));
        const bands = bandsOf(deploysOf(lane), window, scale, {
          largest: 18,
          ticks: [],
          labelWidth: () => 0,
        });
        const left = `calc(64px + (100% - 64px) * ${column / columns})`;
        return (
          <div key={lane.name}>
            <span className="absolute top-1 font-[650]" style={{ left }}>
              {lane.name}
            </span>
            {bands.map((band, place) => {
              const deploy = views.get(band.deploy.number);
              const turned = {
                ...band,
                words:
                  band.width > 62
                    ? ('stacked' as const)
                    : band.width > 22
                      ? ('mark' as const)
                      : ('none' as const),
                again: [],
              };
              return deploy === undefined ? null : (
                <BandLink
                  key={deploy.number}
                  band={turned}
                  deploy={deploy}
                  project={project}
                  until={bands[place + 1]?.deploy.committedAt ?? null}
                  size={18}
                  isTabStop
                  style={{
                    left,
                    width: `calc((100% - 64px) / ${columns} - 8px)`,
                    top: 24 + height - band.left - band.width,
                    height: band.width,
                  }}
                />
              );
            })}
          </div>
        );
      })}
    </section>
  );
}
