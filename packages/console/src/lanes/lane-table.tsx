import type { LaneReply } from '@vaquero/contracts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { moment } from '../parts/words.ts';

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
