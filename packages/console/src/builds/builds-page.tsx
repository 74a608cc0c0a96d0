import { infiniteQueryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { type BuildRow, buildRoutes } from '@vaquero/contracts';
import { Link, useParams } from 'react-router';
import { api } from '../http/api.ts';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { AnswerLine, Failed, Frame, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { lasting, moment } from '../parts/words.ts';

const buildsOf = (project: string) =>
  infiniteQueryOptions({
    queryKey: [project, 'builds'],
    queryFn: ({ pageParam, signal }) =>
      api.call(buildRoutes.listBuildsRoute, {
        params: { project },
        query: { limit: 25, ...(pageParam === 0 ? {} : { before: pageParam }) },
        signal,
      }),
    initialPageParam: 0,
    getNextPageParam: (page) => (page.more ? page.builds.at(-1)?.number : undefined),
  });

function howItStands(build: BuildRow): string {
  if (build.state === 'failed') return `failed: ${build.failure?.what ?? ''}`;
  if (build.state === 'passed') return 'passed.';
  if (build.state === 'reused')
    return `was not run: its inputs are those of build ${build.reusedFrom}.`;
  return `is ${build.state}.`;
}

/** Builds: which passed, which failed, and why. */
export function BuildsPage() {
  const { project = '' } = useParams();
  const { data, error, refetch, fetchNextPage, hasNextPage } = useInfiniteQuery(buildsOf(project));
  const builds = data?.pages.flatMap((page) => page.builds) ?? [];
  const [last] = builds;
  const now = Date.now();
  return (
    <Frame project={project}>
      <AnswerLine>
        {data === undefined
          ? 'Builds'
          : last === undefined
            ? 'No build yet: it waits for the first commit.'
            : `Build ${last.number} ${howItStands(last)}`}
      </AnswerLine>
      {error === null ? null : <Failed error={error} retry={() => void refetch()} />}
      {data === undefined && error === null ? <Reading what="the builds" /> : null}
      {last === undefined ? null : (
        <table className="w-full border-collapse">
          <thead className="max-sm:sr-only">
            <tr className="border-b border-rule-2 text-ink-2">
              {[
                'build',
                'state',
                'commit',
                'what it brings',
                'cause',
                'queued',
                'took',
                'artifact',
              ].map((title) => (
                <th
                  key={title}
                  scope="col"
                  className={`pr-3 font-[400] ${title === 'cause' || title === 'commit' ? 'max-lg:hidden' : ''}`}
                >
                  {title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {builds.map((build) => (
              <tr
                key={build.number}
                className="border-b border-rule align-top leading-[25px] max-sm:grid max-sm:grid-cols-[3rem_1fr_auto] max-sm:py-1 max-sm:leading-5"
              >
                <th scope="row" className="pr-3">
                  <Link to={`/p/${project}/builds/${build.number}`}>{build.number}</Link>
                </th>
                <td className="whitespace-nowrap pr-3">
                  <Glyph name={build.state} /> {build.state}
                  {build.marks.map((mark) => (
                    <span key={mark} className="ml-2 text-warn">
                      <Glyph name={mark} /> {mark}
                    </span>
                  ))}
                </td>
                <td className="pr-3 max-lg:hidden">
                  <code>{build.commit.id.slice(0, 8)}</code>
                </td>
                <td className="said pr-3 max-sm:col-span-2 max-sm:col-start-2">
                  {build.commit.subject}
                  {build.recipeName === 'site' ? null : (
                    <span className="font-sans text-ink-2"> by the recipe {build.recipeName}</span>
                  )}
                  {build.pullRequest === null ? null : (
                    <span className="font-sans text-ink-2">
                      {' '}
                      in{' '}
                      <Link to={`/p/${project}/${build.pullRequest.name}`}>
                        {build.pullRequest.name}
                      </Link>
                      {build.pullRequest.outsider ? ', an outsider’s' : ''}
                    </span>
                  )}
                  {build.failure === null ? null : (
                    <span className="block font-sans leading-4 text-bad">{build.failure.what}</span>
                  )}
                </td>
                <td className="pr-3 text-ink-2 max-lg:hidden">{build.cause}</td>
                <td className="whitespace-nowrap pr-3">{moment(build.queuedAt, now)}</td>
                <td className="whitespace-nowrap pr-3 text-ink-2">
                  {build.startedAt === null || build.endedAt === null || build.reusedFrom !== null
                    ? build.reusedFrom === null
                      ? ''
                      : 'not run'
                    : lasting(build.endedAt - build.startedAt)}
                </td>
                <td className="whitespace-nowrap">
                  {build.artifact === null ? (
                    <Unbranded size={14} />
                  ) : (
                    <>
                      <BrandMark
                        digest={build.artifact.digest}
                        size={14}
                        className="align-[-2px]"
                      />{' '}
                      <code className="text-ink-2">{build.artifact.digest.slice(0, 8)}</code>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {hasNextPage ? (
        <p className="mt-2">
          <Button onClick={() => void fetchNextPage()}>Older builds</Button>
        </p>
      ) : null}
    </Frame>
  );
}
