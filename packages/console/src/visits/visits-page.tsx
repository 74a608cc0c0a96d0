import { queryOptions, useQuery } from '@tanstack/react-query';
import { type DeployVisits, type VisitsReply, visitRoutes } from '@vaquero/contracts';
import { counted, rateInWords, ratesOf, shareInWords } from '@vaquero/core';
import { Link, useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { api } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { capital, lasting, moment } from '../parts/words.ts';
import { EnvironmentTabs, useShown } from '../releases/environment-tabs.tsx';
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
  const { project = '', environment: named } = useParams();
  const { environment, fault } = useShown(project, named);
  const asked = useQuery({
    ...visitsOf(project, environment ?? ''),
    enabled: environment !== undefined,
  });
  return (
    <Page
      project={project}
      title="Visits"
      what="the figures"
      asked={{ ...asked, error: asked.error ?? fault }}
    >
      {(data) => (
        <>
          <AnswerLine
            below={
              <>
                Visits of{' '}
                <EnvironmentTabs project={project} page="visits" shown={data.environment} />
              </>
            }
          >
            {answerOf(data)}
          </AnswerLine>
          {data.live === null ? null : (
            <>
              <p className="mb-3 text-ink-2">
                <VisitsLine minutes={data.minutes} now={data.now} width={360} /> the last hour, by
                minute
              </p>
              <div className="mb-6 overflow-x-auto">
                <Table
                  caption="What was asked of this deploy and of the one before"
                  className="max-w-[60rem]"
                  columns={columnsFor(project, data.now)}
                  rows={[data.live, ...(data.before === null ? [] : [data.before])]}
                  keyOf={(one) => one.deploy}
                  empty=""
                />
              </div>
              <Misses misses={data.misses} now={data.now} />
            </>
          )}
        </>
      )}
    </Page>
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

/** This deploy beside the one before: rates and shares, since they were live for different times. */
function columnsFor(project: string, now: number): readonly Column<DeployVisits>[] {
  const figure = (
    head: string,
    cell: (one: DeployVisits) => string,
    more: Partial<Column<DeployVisits>> = {},
  ): Column<DeployVisits> => ({
    head,
    isFigure: true,
    className: 'whitespace-nowrap tabular-nums',
    cell,
    ...more,
  });
  const rates = (one: DeployVisits) => ratesOf(one, one.liveForMs);
  return [
    {
      head: 'deploy',
      isName: true,
      className: 'whitespace-nowrap',
      cell: ({ deploy, build }) => (
        <>
          {deploy} <span className="font-[400] text-ink-2">build </span>
          <Link to={`/p/${project}/builds/${build}`}>{build}</Link>
        </>
      ),
    },
    {
      head: 'since',
      from: 'sm',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ from, liveForMs }) => `${moment(from, now)}, for ${lasting(liveForMs)}`,
    },
    figure('requests', (one) => one.requests.toLocaleString('en')),
    figure('rate', (one) => rateInWords(rates(one).perMinute)),
    figure('not found', (one) => shareInWords(rates(one).missedShare)),
    {
      ...figure('failed', () => ''),
      cell: (one) => {
        const { failedShare } = rates(one);
        return (
          <span className={failedShare > 0 ? 'text-bad' : ''}>{shareInWords(failedShare)}</span>
        );
      },
    },
    figure('slow', (one) => shareInWords(rates(one).slowShare)),
    figure('sent', (one) => bytesInWords(one.bytes), { from: 'sm' }),
  ];
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
