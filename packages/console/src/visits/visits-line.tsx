import type { VisitsReply } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { Link } from 'react-router';

type Minutes = VisitsReply['minutes'];

const minuteMs = 60_000;
const many = 60;

/** Requests of the last sixty minutes, one for each, those without a request too. */
function requestsOf(minutes: Minutes, now: number): readonly number[] {
  const last = Math.floor(now / minuteMs);
  const byMinute = new Map(minutes.map((one) => [one.from / minuteMs, one.requests]));
  return Array.from({ length: many }, (_, n) => byMinute.get(last - many + 1 + n) ?? 0);
}

/** The last hour of requests as a line, with what it comes to in words. */
export function VisitsLine({
  minutes,
  now,
  width = 96,
}: {
  readonly minutes: Minutes;
  readonly now: number;
  readonly width?: number;
}) {
  const requests = requestsOf(minutes, now);
  const most = Math.max(1, ...requests);
  const height = 16;
  const points = requests.map(
    (count, n) => `${(n * width) / (many - 1)},${height - (count / most) * (height - 2)}`,
  );
  return (
    <svg
      width={width}
      height={height + 2}
      aria-hidden="true"
      className="inline-block align-[-4px]"
      viewBox={`0 -1 ${width} ${height + 2}`}
    >
      <polyline points={points.join(' ')} fill="none" stroke="var(--ink-2)" strokeWidth="1.2" />
    </svg>
  );
}

/** The line beside a lane: how much is asked for now, and where it is told at length. */
export function LaneVisits({
  project,
  environment,
  minutes,
  now,
}: {
  readonly project: string;
  readonly environment: string;
  readonly minutes: Minutes;
  readonly now: number;
}) {
  const total = minutes.reduce((sum, { requests }) => sum + requests, 0);
  const bad = minutes.reduce((sum, one) => sum + one.bad, 0);
  return (
    <p className="col-span-2 mt-0.5 text-small text-ink-2">
      <Link
        to={`/p/${project}/visits/${environment}`}
        className="text-ink-2 no-underline hover:underline"
      >
        <VisitsLine minutes={minutes} now={now} width={64} /> {counted(total, 'request')}
        <span className="sr-only"> in the last hour</span>
        {bad === 0 ? '' : `, ${bad} in vain`}
      </Link>
    </p>
  );
}
