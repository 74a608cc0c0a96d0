import type { DeploySeen } from '@vaquero/contracts';
import type { Band } from '@vaquero/core';
import { brandOf } from '@vaquero/core';
import { Link } from 'react-router';
import { BrandMark } from '../parts/brand-mark.tsx';
import { clock, day } from '../parts/words.ts';

interface BandLinkProps {
  readonly band: Band;
  readonly deploy: DeploySeen;
  readonly project: string;
  readonly until: number | null;
  readonly size: 18 | 22;
  readonly style: {
    readonly left: number | string;
    readonly top: number | string;
    readonly width: number | string;
    readonly height: number | string;
  };
  readonly isTabStop: boolean;
}

/** A band of a lane: the time an artifact was live, as a link to the build that made it. */
export function BandLink({ band, deploy, project, until, size, style, isTabStop }: BandLinkProps) {
  const brand = brandOf(deploy.artifact);
  const to = until === null ? 'now' : `${day(until)} ${clock(until)}`;
  const label = `build ${deploy.build}, ${brand.name}, ${day(deploy.committedAt)} ${clock(deploy.committedAt)} to ${to}${band.undone ? ', undone' : ''}: ${deploy.subject}`;
  return (
    <Link
      to={`/p/${project}/builds/${deploy.build}`}
      className={`band hue-${brand.hue}`}
      style={style}
      title={label}
      aria-label={label}
      tabIndex={isTabStop ? 0 : -1}
      data-words={band.words}
      data-size={size}
      data-live={until === null || undefined}
      data-cut={band.cut || undefined}
      data-undone={band.undone || undefined}
      data-band={deploy.number}
    >
      <BandWords band={band} deploy={deploy} />
      {band.undone
        ? null
        : band.again.map((at) => (
            <span key={at} className="again" style={{ left: at - 7 }}>
              <BrandMark digest={deploy.artifact} size={14} />
            </span>
          ))}
    </Link>
  );
}

function BandWords({ band, deploy }: { readonly band: Band; readonly deploy: DeploySeen }) {
  if (band.mark === 0) return null;
  const mark = <BrandMark digest={deploy.artifact} size={band.mark} />;
  if (band.words === 'stacked')
    return (
      <span className="text">
        {mark}
        <b>{deploy.build}</b>
        <em>{deploy.subject}</em>
      </span>
    );
  if (band.words === 'beside')
    return (
      <>
        {mark}
        <span className="text">
          <b>{deploy.build}</b> <code className="text-ink-2">{deploy.artifact.slice(0, 8)}</code>
          <em>{deploy.subject}</em>
        </span>
      </>
    );
  return mark;
}
