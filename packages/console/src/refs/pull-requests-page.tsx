import { useInfiniteQuery } from '@tanstack/react-query';
import type { PullRequestSeen } from '@vaquero/contracts';
import { counted, tellingBuild } from '@vaquero/core';
import { Link, useParams } from 'react-router';
import { Page } from '../frame/page.tsx';
import { AnswerLine } from '../parts/answer.tsx';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { PullRequestTabs } from './pull-request-tabs.tsx';
import { pullRequestsOf } from './pull-requests-of.ts';

/** Pull requests: what is proposed, and does any of them wait for me? */
export function PullRequestsPage() {
  const { project = '' } = useParams();
  const asked = useInfiniteQuery(pullRequestsOf(project));
  return (
    <Page project={project} title="Pull requests" what="the pull requests" asked={asked}>
      {({ pages }) => {
        const pullRequests = pages.flatMap((page) => page.pullRequests);
        return (
          <>
            <AnswerLine below="Where the map says so each has a preview of its own. Code of outsiders is built on a member’s word for each commit, is given no values, and reaches no environment.">
              {answerOf(pullRequests, asked.hasNextPage)}
            </AnswerLine>
            <PullRequestTabs project={project} />
            <Table
              caption={`Pull requests of ${project}, open ones first`}
              columns={columnsFor(project, asked.dataUpdatedAt)}
              rows={pullRequests}
              keyOf={(one) => one.name}
              empty="What is proposed to be merged stands here, with what was built of it."
              rowClass="max-sm:grid max-sm:grid-cols-[3.5rem_1fr] max-sm:py-1 max-sm:leading-5"
            />
            {asked.hasNextPage ? (
              <p className="mt-2">
                <Button onClick={() => void asked.fetchNextPage()}>Older pull requests</Button>
              </p>
            ) : null}
          </>
        );
      }}
    </Page>
  );
}

function answerOf(all: readonly PullRequestSeen[], goesOn: boolean): string {
  const open = all.filter((one) => one.state === 'open');
  const waiting = open.filter(waitsForWord);
  if (open.length === 0)
    return all.length === 0 ? 'Nothing is proposed yet.' : 'No pull request is open.';
  const first = waiting[0];
  return first === undefined
    ? `${goesOn && open.length === all.length ? 'More than ' : ''}${counted(open.length, 'pull request')} ${open.length === 1 ? 'is' : 'are'} open; none waits for a word.`
    : `${first.name}${waiting.length > 1 ? ` and ${waiting.length - 1} more` : ''} ${waiting.length > 1 ? 'wait' : 'waits'} for a member’s word.`;
}

/** Whether nothing of it is built until a member says so. */
export function waitsForWord(one: PullRequestSeen): boolean {
  return one.state === 'open' && one.takesWord && one.head !== null && one.word === null;
}

function columnsFor(project: string, now: number): readonly Column<PullRequestSeen>[] {
  return [
    {
      head: 'name',
      isName: true,
      className: 'whitespace-nowrap',
      cell: ({ name }) => <Link to={`/p/${project}/${name}`}>{name}</Link>,
    },
    {
      head: 'what it is about',
      cell: ({ title, isDraft }) => (
        <>
          <span className="said">{title}</span>
          {isDraft ? <span className="text-ink-2"> a draft</span> : null}
        </>
      ),
    },
    {
      head: 'from',
      from: 'lg',
      className: '[overflow-wrap:anywhere]',
      cell: ({ from, outsider }) => (
        <>
          <code>{from.branch}</code>
          {outsider ? <span className="text-warn"> an outsider’s</span> : null}
        </>
      ),
    },
    {
      head: 'head',
      className: 'whitespace-nowrap max-sm:col-start-2',
      cell: ({ head, builds: [newest] }) => (
        <>
          {newest?.artifact == null ? (
            <Unbranded size={14} />
          ) : (
            <BrandMark digest={newest.artifact.digest} size={14} className="align-[-2px]" />
          )}{' '}
          <code className="text-ink-2">{head?.commit.slice(0, 8) ?? 'not read'}</code>
        </>
      ),
    },
    {
      head: 'how it stands',
      className: 'max-sm:col-start-2',
      cell: (one) => <Standing one={one} />,
    },
    {
      head: 'opened',
      from: 'lg',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ openedAt, openedBy }) => `${moment(openedAt, now)} by ${openedBy}`,
    },
  ];
}

/** How a pull request stands: shape, word, and the sentence of the service. */
export function Standing({ one }: { readonly one: PullRequestSeen }) {
  const newest = tellingBuild(one.builds);
  if (one.state === 'merged')
    return (
      <>
        <Glyph name="passed" /> merged
      </>
    );
  if (one.state === 'closed')
    return (
      <>
        <Glyph name="stopped" /> closed
      </>
    );
  if (waitsForWord(one))
    return (
      <span className="text-warn">
        <Glyph name="waiting" /> waits for a member’s word
      </span>
    );
  if (newest === undefined) return <span className="text-ink-2">{one.says}</span>;
  return (
    <>
      <Glyph name={newest.state} /> build {newest.number} {newest.state}
    </>
  );
}
