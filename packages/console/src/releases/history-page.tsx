import { infiniteQueryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { environmentRoutes } from '@vaquero/contracts';
import { Link, NavLink, useParams } from 'react-router';
import { api } from '../http/api.ts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { AnswerLine, Failed, Frame, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { capital, counted, lasting, moment } from '../parts/words.ts';

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

/** History: who put what there, when, on whose word, and what came back? */
export function HistoryPage() {
  const { project = '', environment = 'production' } = useParams();
  const { data, error, refetch, fetchNextPage, hasNextPage } = useInfiniteQuery(
    historyOf(project, environment),
  );
  const first = data?.pages[0];
  const deploys = data?.pages.flatMap((page) => page.deploys) ?? [];
  return (
    <Frame project={project}>
      <AnswerLine
        below={
          <>
            Ledger of{' '}
            {['production', 'staging'].map((name) => (
              <NavLink
                key={name}
                to={`/p/${project}/history/${name}`}
                className={`ml-2 ${name === environment ? 'border-b-2 border-ink font-[650] text-ink no-underline' : ''}`}
              >
                {name}
              </NavLink>
            ))}
          </>
        }
      >
        {first === undefined
          ? `History of ${environment}`
          : first.total === 0
            ? `${capital(environment)} has served nothing yet.`
            : `${capital(environment)} changed ${first.total === 1 ? 'once' : `${first.total} times`}; ${first.undone === 0 ? 'no change was undone' : first.undone === 1 ? 'one change was undone' : `${first.undone} changes were undone`}.`}
      </AnswerLine>
      {error === null ? null : <Failed error={error} retry={() => void refetch()} />}
      {first === undefined && error === null ? <Reading what="the ledger" /> : null}
      {first === undefined || first.total === 0 ? null : (
        <table className="w-full border-collapse">
          <thead className="max-sm:sr-only">
            <tr className="border-b border-rule-2 text-ink-2">
              {[
                'deploy',
                'since',
                'artifact',
                'what it brought',
                'how',
                'by',
                'from',
                'built in',
              ].map((title) => (
                <th
                  key={title}
                  scope="col"
                  className={`pr-3 font-[400] ${title === 'from' || title === 'built in' ? 'max-lg:hidden' : ''}`}
                >
                  {title}
                </th>
              ))}
              <th scope="col" className="text-right font-[400]">
                live for
              </th>
            </tr>
          </thead>
          <tbody>
            {deploys.map((deploy, place) => (
              <tr
                key={deploy.number}
                className="border-b border-rule align-top leading-[25px] max-sm:grid max-sm:grid-cols-[2.5rem_1fr_auto] max-sm:leading-5 max-sm:py-1"
              >
                <th scope="row" className="pr-3">
                  {deploy.number}
                </th>
                <td className="whitespace-nowrap pr-3">{moment(deploy.committedAt, first.now)}</td>
                <td className="whitespace-nowrap pr-3">
                  <Link
                    to={`/p/${project}/builds/${deploy.build}`}
                    className="text-ink no-underline hover:underline"
                  >
                    <BrandMark digest={deploy.artifact} size={14} className="align-[-2px]" />{' '}
                    <b className={`font-[650] ${deploy.undone ? 'line-through' : ''}`}>
                      {deploy.build}
                    </b>{' '}
                    <code className="text-ink-2">{deploy.artifact.slice(0, 8)}</code>
                  </Link>
                </td>
                <td
                  className={`said pr-3 max-sm:col-span-2 max-sm:col-start-2 ${deploy.undone ? 'line-through' : ''}`}
                >
                  {deploy.subject}
                  {deploy.reason === null || deploy.reason === '' ? null : (
                    <span className="block text-small leading-4 text-ink-2">“{deploy.reason}”</span>
                  )}
                </td>
                <td className="whitespace-nowrap pr-3 max-sm:col-start-2">
                  <Glyph name={deploy.kind} />{' '}
                  {deploy.kind === 'rolled-back' ? 'rolled back' : deploy.kind}
                  {deploy.undoes === null
                    ? ''
                    : `, undoes ${deploy.undoes.first === deploy.undoes.last ? deploy.undoes.first : `${deploy.undoes.first}–${deploy.undoes.last}`}`}
                  {deploy.undone ? <span className="text-bad"> undone</span> : ''}
                </td>
                <td className="whitespace-nowrap pr-3">{deploy.by}</td>
                <td className="whitespace-nowrap pr-3 max-lg:hidden">
                  <code>{deploy.commit.slice(0, 8)}</code>{' '}
                  <span className="text-ink-2">by {deploy.through}</span>
                </td>
                <td className="whitespace-nowrap pr-3 text-ink-2 max-lg:hidden">
                  {deploy.builtInMs === null ? '' : lasting(deploy.builtInMs)}
                </td>
                <td className="whitespace-nowrap text-right max-sm:hidden">
                  {place === 0 ? 'still live' : lasting(deploy.liveForMs)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {hasNextPage ? (
        <p className="mt-2">
          <Button onClick={() => void fetchNextPage()}>
            {counted((first?.total ?? 0) - deploys.length, 'older deploy')}
          </Button>
        </p>
      ) : null}
    </Frame>
  );
}
