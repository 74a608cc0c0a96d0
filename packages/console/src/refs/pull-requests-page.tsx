import { useQuery } from '@tanstack/react-query';
import type { PullRequestSeen } from '@vaquero/contracts';
import { Link, useParams } from 'react-router';
import { BrandMark, Unbranded } from '../parts/brand-mark.tsx';
import { AnswerLine, Failed, Frame, Reading } from '../parts/frame.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { counted, moment } from '../parts/words.ts';
import { pullRequestsOf } from './pull-requests-of.ts';

/** Pull requests: what is proposed, and does any of them wait for me? */
export function PullRequestsPage() {
  const { project = '' } = useParams();
  const { data, error, refetch, dataUpdatedAt } = useQuery(pullRequestsOf(project));
  const all = data?.pullRequests ?? [];
  return (
    <Frame project={project}>
      <AnswerLine below="A recipe builds them where it says for: {proposed-into: …}. Code of outsiders is built on a member’s word for each commit, and is given no values.">
        {data === undefined ? 'Pull requests' : answerOf(all)}
      </AnswerLine>
      {error === null ? null : <Failed error={error} retry={() => void refetch()} />}
      {data === undefined && error === null ? <Reading what="the pull requests" /> : null}
      {all.length === 0 ? null : (
        <table className="w-full border-collapse">
          <thead className="max-sm:sr-only">
            <tr className="border-b border-rule-2 text-ink-2">
              {['name', 'what it is about', 'from', 'head', 'how it stands', 'opened'].map(
                (title) => (
                  <th
                    key={title}
                    scope="col"
                    className={`pr-3 font-[400] ${title === 'from' || title === 'opened' ? 'max-lg:hidden' : ''}`}
                  >
                    {title}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {all.map((one) => (
              <Row key={one.name} project={project} one={one} now={dataUpdatedAt} />
            ))}
          </tbody>
        </table>
      )}
    </Frame>
  );
}

function answerOf(all: readonly PullRequestSeen[]): string {
  const open = all.filter((one) => one.state === 'open');
  const waiting = open.filter(waitsForWord);
  if (open.length === 0)
    return all.length === 0 ? 'Nothing is proposed yet.' : 'No pull request is open.';
  const first = waiting[0];
  return first === undefined
    ? `${counted(open.length, 'pull request')} ${open.length === 1 ? 'is' : 'are'} open; none waits for a word.`
    : `${first.name}${waiting.length > 1 ? ` and ${waiting.length - 1} more` : ''} ${waiting.length > 1 ? 'wait' : 'waits'} for a member’s word.`;
}

/** Whether nothing of it is built until a member says so. */
export function waitsForWord(one: PullRequestSeen): boolean {
  return one.state === 'open' && one.outsider && one.head !== null && one.word === null;
}

function Row({
  project,
  one,
  now,
}: {
  readonly project: string;
  readonly one: PullRequestSeen;
  readonly now: number;
}) {
  const [newest] = one.builds;
  const artifact = newest?.artifact ?? null;
  return (
    <tr className="border-b border-rule align-top leading-[25px] max-sm:grid max-sm:grid-cols-[3.5rem_1fr] max-sm:py-1 max-sm:leading-5">
      <th scope="row" className="whitespace-nowrap pr-3">
        <Link to={`/p/${project}/${one.name}`}>{one.name}</Link>
      </th>
      <td className="said pr-3">{one.title}</td>
      <td className="pr-3 [overflow-wrap:anywhere] max-lg:hidden">
        <code>{one.from.branch}</code>
        {one.outsider ? <span className="text-warn"> an outsider’s</span> : null}
      </td>
      <td className="whitespace-nowrap pr-3 max-sm:col-start-2">
        {artifact === null ? (
          <Unbranded size={14} />
        ) : (
          <BrandMark digest={artifact.digest} size={14} className="align-[-2px]" />
        )}{' '}
        <code className="text-ink-2">{one.head?.commit.slice(0, 8) ?? 'not read'}</code>
      </td>
      <td className="pr-3 max-sm:col-start-2">
        <Standing one={one} />
      </td>
      <td className="whitespace-nowrap text-ink-2 max-lg:hidden">
        {moment(one.openedAt, now)} by {one.openedBy}
      </td>
    </tr>
  );
}

/** How a pull request stands: shape, word, and the sentence of the service. */
export function Standing({ one }: { readonly one: PullRequestSeen }) {
  const [newest] = one.builds;
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
