import { infiniteQueryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { environmentRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { Link, useParams } from 'react-router';
import type { z } from 'zod';
import { Page } from '../frame/page.tsx';
import { api } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { capital, lasting, moment } from '../parts/words.ts';
import { EnvironmentTabs, useShown } from './environment-tabs.tsx';

const historyOf = (project: string, environment: string) =>
  infiniteQueryOptions({
    queryKey: [project, 'history', environment],
    queryFn: ({ pageParam, signal }) =>
      api.call(environmentRoutes.historyRoute, {
        params: { project, environment },
        query: { limit: 30, ...(pageParam === 0 ? {} : { before: pageParam }) },
        signal,
      }),
    initialPageParam: 0,
    getNextPageParam: (page) => (page.more ? page.deploys.at(-1)?.number : undefined),
  });

type History = z.output<typeof environmentRoutes.historyRoute.reply>;
type Deploy = History['deploys'][number];

/** History: who put what there, when, on whose word, and what came back? */
export function HistoryPage() {
  const { project = '', environment: named } = useParams();
  const { environment, fault } = useShown(project, named);
  const asked = useInfiniteQuery({
    ...historyOf(project, environment ?? ''),
    enabled: environment !== undefined,
  });
  return (
    <Page
      project={project}
      title="History"
      what="the ledger"
      asked={{ ...asked, error: asked.error ?? fault }}
    >
      {({ pages }) => {
        const [first] = pages;
        const deploys = pages.flatMap((page) => page.deploys);
        const left = (first?.total ?? 0) - deploys.length;
        return (
          <>
            <AnswerLine
              below={
                <>
                  Ledger of{' '}
                  <EnvironmentTabs project={project} page="history" shown={environment ?? ''} />
                </>
              }
            >
              {answerOf(capital(environment ?? ''), first?.total ?? 0, first?.undone ?? 0)}
            </AnswerLine>
            <Table
              caption={`What ${environment} served, the newest first`}
              columns={columnsFor(project, first, deploys)}
              rows={deploys}
              keyOf={(deploy) => deploy.number}
              empty="Its first deploy will stand here."
              rowClass="max-sm:grid max-sm:grid-cols-[2.5rem_1fr_auto] max-sm:leading-5 max-sm:py-1"
            />
            {asked.hasNextPage ? (
              <p className="mt-2">
                <Button onClick={() => void asked.fetchNextPage()}>
                  {counted(left, 'older deploy')}
                </Button>
              </p>
            ) : null}
          </>
        );
      }}
    </Page>
  );
}

function answerOf(name: string, total: number, undone: number): string {
  if (total === 0) return `${name} has served nothing yet.`;
  const came =
    undone === 0 ? 'no change was' : undone === 1 ? 'one change was' : `${undone} changes were`;
  return `${name} changed ${total === 1 ? 'once' : `${total} times`}; ${came} undone.`;
}

function columnsFor(
  project: string,
  first: History | undefined,
  deploys: readonly Deploy[],
): readonly Column<Deploy>[] {
  const now = first?.now ?? 0;
  const hasEnded = first?.endedAt != null;
  return [
    { head: 'deploy', isName: true, cell: ({ number }) => number },
    {
      head: 'since',
      className: 'whitespace-nowrap',
      cell: ({ committedAt }) => moment(committedAt, now),
    },
    {
      head: 'artifact',
      className: 'whitespace-nowrap',
      cell: ({ build, artifact, undone }) => (
        <Link
          to={`/p/${project}/builds/${build}`}
          className="text-ink no-underline hover:underline"
        >
          <BrandMark digest={artifact} size={14} className="align-[-2px]" />{' '}
          <b className={`font-[650] ${undone ? 'line-through' : ''}`}>{build}</b>{' '}
          <code className="text-ink-2">{artifact.slice(0, 8)}</code>
        </Link>
      ),
    },
    {
      head: 'what it brought',
      className: 'said max-sm:col-span-2 max-sm:col-start-2',
      cell: ({ subject, undone, reason }) => (
        <>
          {undone ? <s>{subject}</s> : subject}
          {reason === null || reason === '' ? null : (
            <span className="block text-small leading-4 text-ink-2">“{reason}”</span>
          )}
        </>
      ),
    },
    {
      head: 'against the one before',
      from: 'lg',
      className: 'whitespace-nowrap',
      cell: ({ build }, place) => {
        const before = deploys[place + 1]?.build;
        return before === undefined || before === build ? (
          ''
        ) : (
          <Link to={`/p/${project}/compare/${before}/${build}`}>
            from {before} to {build}
          </Link>
        );
      },
    },
    { head: 'how', className: 'whitespace-nowrap max-sm:col-start-2', cell: howOf },
    { head: 'by', className: 'whitespace-nowrap', cell: ({ by }) => by },
    {
      head: 'from',
      from: 'lg',
      className: 'whitespace-nowrap',
      cell: ({ commit, through }) => (
        <>
          <code>{commit.slice(0, 8)}</code> <span className="text-ink-2">by {through}</span>
        </>
      ),
    },
    {
      head: 'built in',
      from: 'lg',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ builtInMs }) => (builtInMs === null ? '' : lasting(builtInMs)),
    },
    {
      head: 'live for',
      isFigure: true,
      from: 'sm',
      className: 'whitespace-nowrap',
      cell: ({ liveForMs }, place) =>
        place === 0 && !hasEnded ? 'still live' : lasting(liveForMs),
    },
  ];
}

function howOf({ kind, undoes, undone }: Deploy) {
  const range =
    undoes === null
      ? ''
      : `, undoes ${undoes.first === undoes.last ? undoes.first : `${undoes.first}–${undoes.last}`}`;
  return (
    <>
      <Glyph name={kind} /> {kind.replace('-', ' ')}
      {range}
      {undone ? <span className="text-bad"> undone</span> : ''}
    </>
  );
}
