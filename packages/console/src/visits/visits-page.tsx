import { queryOptions, useQuery } from '@tanstack/react-query';
import { type DeployVisits, type VisitsReply, visitRoutes } from '@vaquero/contracts';
import { rateInWords, ratesOf, shareInWords } from '@vaquero/core';
import { Link, NavLink, useParams } from 'react-router';
import { api } from '../http/api.ts';
import { AnswerLine, Failed, Frame, lanesOf, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { capital, counted, lasting, moment } from '../parts/words.ts';
import { VisitsLine } from './visits-line.tsx';

const everyMs = 10_000;

const visitsOf = (project: string, environment: string) =>
  queryOptions({
    queryKey: [project, 'visits', environment],
    queryFn: ({ signal }) =>
      api.call(visitRoutes.showVisitsRoute, { params: { project, environment }, signal }),
    refetchInterval: everyMs,
  });

/** Visits: does it answer what people ask for, and what did the last deploy change about that? */
export function VisitsPage() {
  const { project = '', environment = 'production' } = useParams();
  const { data, error, refetch } = useQuery(visitsOf(project, environment));
  const { data: lanes } = useQuery(lanesOf(project));
  const names = lanes?.environments.map((lane) => lane.name) ?? [environment];
  return (
    <Frame project={project}>
      <AnswerLine
        below={
          <>
            Visits of{' '}
            {names.map((name) => (
              <NavLink
                key={name}
                to={`/p/${project}/visits/${name}`}
                className={`ml-2 ${name === environment ? 'border-b-2 border-ink font-[650] text-ink no-underline' : ''}`}
              >
                {name}
              </NavLink>
            ))}
          </>
        }
      >
        {data === undefined ? `Visits of ${environment}` : answerOf(data)}
      </AnswerLine>
      {error === null ? null : <Failed error={error} retry={() => void refetch()} />}
      {data === undefined && error === null ? <Reading what="the figures" /> : null}
      {data === undefined || data.live === null ? null : (
        <>
          <p className="mb-3 text-ink-2">
            <VisitsLine minutes={data.minutes} now={data.now} width={360} /> the last hour, by
            minute
          </p>
          <Beside live={data.live} before={data.before} now={data.now} project={project} />
          <Misses misses={data.misses} now={data.now} />
        </>
      )}
    </Frame>
  );
}

function answerOf({ environment, live, misses }: VisitsReply): string {
  if (live === null) return `${capital(environment)} has served nothing yet.`;
  const lost = misses.filter((one) => one.answeredBefore);
  if (lost.length > 0)
    return lost.length === 1
      ? `One path that the deploy before answered is not found since deploy ${live.deploy}.`
      : `${lost.length} paths that the deploy before answered are not found since deploy ${live.deploy}.`;
  if (live.requests === 0) return `Nobody has asked for anything since deploy ${live.deploy}.`;
  const { failedShare } = ratesOf(live, live.liveForMs);
  return failedShare > 0
    ? `${shareInWords(failedShare)} of all requests failed since deploy ${live.deploy}.`
    : `${capital(environment)} answers: ${counted(live.requests, 'request')} since deploy ${live.deploy}, none of them failed.`;
}

const heads = ['requests', 'rate', 'not found', 'failed', 'slow', 'sent'] as const;

/** This deploy beside the one before: rates and shares, since they were live for different times. */
function Beside({
  live,
  before,
  now,
  project,
}: {
  readonly live: DeployVisits;
  readonly before: DeployVisits | null;
  readonly now: number;
  readonly project: string;
}) {
  return (
    <div className="mb-6 overflow-x-auto">
      <table className="w-full max-w-[60rem] border-collapse">
        <caption className="sr-only">What was asked of this deploy and of the one before</caption>
        <thead>
          <tr className="border-b border-rule-2 text-left text-ink-2">
            <th scope="col" className="pr-3 font-[400]">
              deploy
            </th>
            <th scope="col" className="pr-3 font-[400] max-sm:hidden">
              since
            </th>
            {heads.map((head) => (
              <th
                key={head}
                scope="col"
                className={`pr-3 text-right font-[400] ${head === 'sent' ? 'max-sm:hidden' : ''}`}
              >
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[live, ...(before === null ? [] : [before])].map((one) => {
            const rates = ratesOf(one, one.liveForMs);
            return (
              <tr key={one.deploy} className="border-b border-rule leading-[25px]">
                <th scope="row" className="whitespace-nowrap pr-3 text-left">
                  {one.deploy} <span className="font-[400] text-ink-2">build </span>
                  <Link to={`/p/${project}/builds/${one.build}`}>{one.build}</Link>
                </th>
                <td className="whitespace-nowrap pr-3 text-ink-2 max-sm:hidden">
                  {moment(one.from, now)}, for {lasting(one.liveForMs)}
                </td>
                <Figure>{one.requests.toLocaleString('en')}</Figure>
                <Figure>{rateInWords(rates.perMinute)}</Figure>
                <Figure>{shareInWords(rates.missedShare)}</Figure>
                <Figure isBad={rates.failedShare > 0}>{shareInWords(rates.failedShare)}</Figure>
                <Figure>{shareInWords(rates.slowShare)}</Figure>
                <Figure isWide>{bytesInWords(one.bytes)}</Figure>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Figure({
  children,
  isBad = false,
  isWide = false,
}: {
  readonly children: string;
  readonly isBad?: boolean;
  /** Left out where there is little room. */
  readonly isWide?: boolean;
}) {
  return (
    <td
      className={`whitespace-nowrap pr-3 text-right tabular-nums ${isBad ? 'text-bad' : ''} ${isWide ? 'max-sm:hidden' : ''}`}
    >
      {children}
    </td>
  );
}

function bytesInWords(bytes: number): string {
  if (bytes < 10_000) return `${bytes} B`;
  if (bytes < 10_000_000) return `${Math.round(bytes / 1000)} kB`;
  return `${Math.round(bytes / 1_000_000).toLocaleString('en')} MB`;
}

/** Paths that nobody finds, those that the deploy before answered first. */
function Misses({ misses, now }: { readonly misses: VisitsReply['misses']; readonly now: number }) {
  if (misses.length === 0)
    return <p className="text-ink-2">Every path that was asked for is there.</p>;
  return (
    <>
      <h2 className="mb-1 font-serif text-section font-[600]">Not found since this deploy</h2>
      <ul className="max-w-[60rem]">
        {misses.map(({ path, times, lastAt, answeredBefore }) => (
          <li key={path} className="flex flex-wrap gap-x-3 border-b border-rule py-0.5">
            <span className="w-14 text-right tabular-nums text-ink-2">{times} ×</span>
            <code className="min-w-0 break-all">{path}</code>
            {answeredBefore ? (
              <span>
                <Glyph name="failed" /> the deploy before answered it
              </span>
            ) : null}
            <span className="ml-auto text-small text-ink-2">last {moment(lastAt, now)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
