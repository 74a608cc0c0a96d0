import type { PreviewsReply } from '@vaquero/contracts';
import { endedInWords } from '@vaquero/core';
import { Link } from 'react-router';
import { capital, moment } from '../parts/words.ts';

/** Those that ended lately, in a line each: when, why, by whom, and the way to what they served. */
export function EndedPreviews({
  project,
  ended,
  now,
}: {
  readonly project: string;
  readonly ended: PreviewsReply['ended'];
  readonly now: number;
}) {
  if (ended.length === 0) return null;
  return (
    <section aria-label="Ended lately" className="mt-5">
      <h2 className="pb-1">
        <b className="font-[650]">Ended lately</b>{' '}
        <span className="text-ink-2">in the last thirty days; what they served is kept</span>
      </h2>
      <ul className="text-small">
        {ended.map(({ name, endedAt, because, by }) => (
          <li key={name} className="border-t border-rule py-0.5">
            <Link to={`/p/${project}/history/${name}`}>{name}</Link> {moment(endedAt, now)}{' '}
            <span className="text-ink-2">
              {capital(endedInWords(because))}
              {by === null ? '' : `: ${by}`}.
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
