import type { LaneReply } from '@vaquero/contracts';
import { type Instant, liveAt } from '@vaquero/core';
import { BrandMark } from '../parts/brand-mark.tsx';
import { clock, day, moment } from '../parts/words.ts';

/** What was live at an instant: one row a lane, and whether the lanes served the same bytes. */
export function MomentTable({
  lanes,
  at,
}: {
  readonly lanes: LaneReply;
  readonly at: Instant | null;
}) {
  const instant = at ?? lanes.now;
  const rows = lanes.environments.map((lane) => ({
    lane,
    deploy: liveAt(lane.ledger, instant),
    place: 0,
  }));
  const first = rows[0]?.deploy?.artifact;
  return (
    <section
      className="wide-only mt-auto grid grid-cols-[13.5rem_1fr] gap-x-3.5 border-t-2 border-action pt-1.5 max-[1199px]:grid-cols-1"
      aria-live="polite"
    >
      <h2 className="font-[600]">
        {at === null ? 'What is live' : 'What was live at'}{' '}
        <b className="block font-serif text-section text-action">
          {at === null ? 'now' : `${day(at)} ${clock(at)}`}
        </b>
      </h2>
      <table className="w-full border-collapse">
        <tbody>
          {rows.map(({ lane, deploy }, place) => (
            <tr key={lane.name} className="border-t border-rule first:border-t-0">
              <th className="w-28 pr-3" scope="row">
                {lane.name}
              </th>
              {deploy === undefined ? (
                <td className="text-ink-2">served nothing, as far as this page reaches</td>
              ) : (
                <>
                  <td className="whitespace-nowrap pr-3">
                    <BrandMark digest={deploy.artifact} size={14} className="align-[-2px]" />{' '}
                    <b className="font-[650]">{deploy.build}</b>{' '}
                    <code className="text-ink-2">{deploy.artifact.slice(0, 8)}</code>
                  </td>
                  <td className="said pr-3">{deploy.subject}</td>
                  <td className="whitespace-nowrap pr-3 text-ink-2">
                    since {moment(deploy.committedAt, lanes.now)}
                  </td>
                  <td className="pr-3 text-ink-2">{deploy.by}</td>
                  <td className="text-right text-good">
                    {place > 0 && deploy.artifact === first
                      ? `= same bytes as ${rows[0]?.lane.name}`
                      : ''}
                  </td>
                </>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The same as the chart, as a table: lane, artifact, from, to, how, who, why. */
export function LaneTable({ lanes }: { readonly lanes: LaneReply }) {
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="border-b border-rule-2 text-ink-2">
          {['lane', 'deploy', 'artifact', 'what it brought', 'from', 'to', 'how', 'by', 'why'].map(
            (title) => (
              <th key={title} scope="col" className="pr-3 font-[400]">
                {title}
              </th>
            ),
          )}
        </tr>
      </thead>
      <tbody>
        {lanes.environments.flatMap((lane) =>
          lane.ledger.toReversed().map((deploy, place) => (
            <tr key={`${lane.name} ${deploy.number}`} className="border-b border-rule align-top">
              <th scope="row" className="pr-3">
                {lane.name}
              </th>
              <td className="pr-3">{deploy.number}</td>
              <td className="whitespace-nowrap pr-3">
                <BrandMark digest={deploy.artifact} size={14} className="align-[-2px]" />{' '}
                {deploy.build} <code className="text-ink-2">{deploy.artifact.slice(0, 8)}</code>
              </td>
              <td className="said pr-3">
                {deploy.undone ? <s>{deploy.subject}</s> : deploy.subject}
              </td>
              <td className="whitespace-nowrap pr-3">{moment(deploy.committedAt, lanes.now)}</td>
              <td className="whitespace-nowrap pr-3">
                {place === 0
                  ? 'now'
                  : moment(lane.ledger.toReversed()[place - 1]?.committedAt ?? 0, lanes.now)}
              </td>
              <td className="pr-3">
                {deploy.kind.replace('-', ' ')}
                {deploy.undone ? ', undone' : ''}
              </td>
              <td className="pr-3">{deploy.by}</td>
              <td className="said">{deploy.reason}</td>
            </tr>
          )),
        )}
      </tbody>
    </table>
  );
}
