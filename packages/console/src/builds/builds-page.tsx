import { infiniteQueryOptions, useInfiniteQuery } from '@tanstack/react-query';
import { type BuildRow, buildRoutes } from '@vaquero/contracts';
import { tellingBuild } from '@vaquero/core';
import { Link, useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { api } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
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
  const asked = useInfiniteQuery(buildsOf(project));
  return (
    <Page project={project} title="Builds" what="the builds" asked={asked}>
      {({ pages }) => {
        const builds = pages.flatMap((page) => page.builds);
        // A commit stands as its worst recipe does, not as the one that was queued last.
        const last = tellingBuild(
          builds.filter(({ commit }) => commit.id === builds[0]?.commit.id),
        );
        return (
          <>
            <AnswerLine>
              {last === undefined
                ? 'No build yet: it waits for the first commit.'
                : `Build ${last.number} ${howItStands(last)}`}
            </AnswerLine>
            <Table
              caption={`Builds of ${project}, the newest first`}
              columns={columnsFor(project, Date.now())}
              rows={builds}
              keyOf={(build) => build.number}
              empty="What is pushed to the branch is built, and stands here."
              rowClass="max-sm:grid max-sm:grid-cols-[3rem_1fr_auto] max-sm:py-1 max-sm:leading-5"
            />
            {asked.hasNextPage ? (
              <p className="mt-2">
                <Button onClick={() => void asked.fetchNextPage()}>Older builds</Button>
              </p>
            ) : null}
          </>
        );
      }}
    </Page>
  );
}

function columnsFor(project: string, now: number): readonly Column<BuildRow>[] {
  return [
    {
      head: 'build',
      isName: true,
      cell: ({ number }) => <Link to={`/p/${project}/builds/${number}`}>{number}</Link>,
    },
    {
      head: 'state',
      className: 'whitespace-nowrap',
      cell: ({ state, marks }) => (
        <>
          <Glyph name={state} /> {state}
          {marks.map((mark) => (
            <span key={mark} className="ml-2 text-warn">
              <Glyph name={mark} /> {mark}
            </span>
          ))}
        </>
      ),
    },
    { head: 'commit', from: 'lg', cell: ({ commit }) => <code>{commit.id.slice(0, 8)}</code> },
    {
      head: 'what it brings',
      className: 'said max-sm:col-span-2 max-sm:col-start-2',
      cell: (build) => <WhatItBrings project={project} build={build} />,
    },
    { head: 'cause', from: 'lg', className: 'text-ink-2', cell: ({ cause }) => cause },
    {
      head: 'queued',
      className: 'whitespace-nowrap',
      cell: ({ queuedAt }) => moment(queuedAt, now),
    },
    { head: 'took', className: 'whitespace-nowrap text-ink-2', cell: timeOf },
    {
      head: 'artifact',
      className: 'whitespace-nowrap',
      cell: ({ artifact }) =>
        artifact === null ? (
          <Unbranded size={14} />
        ) : (
          <>
            <BrandMark digest={artifact.digest} size={14} className="align-[-2px]" />{' '}
            <code className="text-ink-2">{artifact.digest.slice(0, 8)}</code>
          </>
        ),
    },
  ];
}

function timeOf({ startedAt, endedAt, reusedFrom }: BuildRow): string {
  if (reusedFrom !== null) return 'not run';
  return startedAt === null || endedAt === null ? '' : lasting(endedAt - startedAt);
}

function WhatItBrings({ project, build }: { readonly project: string; readonly build: BuildRow }) {
  const { commit, recipeName, pullRequest, failure } = build;
  return (
    <>
      {commit.subject}
      {recipeName === 'site' ? null : (
        <span className="font-sans text-ink-2"> by the recipe {recipeName}</span>
      )}
      {pullRequest === null ? null : (
        <span className="font-sans text-ink-2">
          {' '}
          in <Link to={`/p/${project}/${pullRequest.name}`}>{pullRequest.name}</Link>
          {pullRequest.outsider ? ', an outsider’s' : ''}
        </span>
      )}
      {failure === null ? null : (
        <span className="block font-sans leading-4 text-bad">{failure.what}</span>
      )}
    </>
  );
}
