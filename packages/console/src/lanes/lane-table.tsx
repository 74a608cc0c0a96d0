import type { LaneReply } from '@vaquero/contracts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';

type Deploy = LaneReply['environments'][number]['ledger'][number];
interface Entry {
  readonly lane: string;
  readonly deploy: Deploy;
  /** When the next one took its place; null while it is live. */
  readonly to: number | null;
}

/** The same as the chart, as a table: lane, artifact, from, to, how, who, why. */
export function LaneTable({ lanes }: { readonly lanes: LaneReply }) {
  const rows = lanes.environments.flatMap(({ name, ledger }) => {
    const newest = ledger.toReversed();
    return newest.map((deploy, place) => ({
      lane: name,
      deploy,
      to: newest[place - 1]?.committedAt ?? null,
    }));
  });
  return (
    <Table
      caption="What each lane served, the newest first"
      columns={columnsFor(lanes.now)}
      rows={rows}
      keyOf={({ lane, deploy }) => `${lane} ${deploy.number}`}
      empty="Nothing was served yet."
    />
  );
}

function columnsFor(now: number): readonly Column<Entry>[] {
  return [
    { head: 'lane', isName: true, cell: ({ lane }) => lane },
    { head: 'deploy', cell: ({ deploy }) => deploy.number },
    {
      head: 'artifact',
      className: 'whitespace-nowrap',
      cell: ({ deploy: { artifact, build } }) => (
        <>
          <BrandMark digest={artifact} size={14} className="align-[-2px]" /> {build}{' '}
          <code className="text-ink-2">{artifact.slice(0, 8)}</code>
        </>
      ),
    },
    {
      head: 'what it brought',
      className: 'said',
      cell: ({ deploy: { undone, subject } }) => (undone ? <s>{subject}</s> : subject),
    },
    {
      head: 'from',
      className: 'whitespace-nowrap',
      cell: ({ deploy }) => moment(deploy.committedAt, now),
    },
    {
      head: 'to',
      className: 'whitespace-nowrap',
      cell: ({ to }) => (to === null ? 'now' : moment(to, now)),
    },
    {
      head: 'how',
      cell: ({ deploy: { kind, undone } }) =>
        `${kind.replace('-', ' ')}${undone ? ', undone' : ''}`,
    },
    { head: 'by', cell: ({ deploy }) => deploy.by },
    { head: 'why', className: 'said', cell: ({ deploy }) => deploy.reason },
  ];
}
