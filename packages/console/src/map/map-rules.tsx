import type { MapReply } from '@vaquero/contracts';
import { type Column, Table } from '../parts/table.tsx';

type Rule = MapReply['rules'][number];

const columns: readonly Column<Rule>[] = [
  { head: 'lane', isName: true, cell: ({ name }) => name },
  { head: 'rule', cell: ({ says }) => <code>{says}</code> },
  {
    head: 'matches now',
    className: '[overflow-wrap:anywhere]',
    cell: ({ kind, matches, matchCount }) =>
      kind === 'accepts'
        ? 'no ref'
        : matchCount === 0
          ? 'nothing'
          : `${matches
              .slice(0, 3)
              .map(({ name }) => name)
              .join(', ')}${matchCount > 3 ? ` and ${matchCount - 3} more` : ''}`,
  },
  { head: 'environments', cell: ({ environments }) => environments.join(', ') || 'none' },
];

/** The same as the drawing, as a table: where there is no room for it, and for who wants it read. */
export function MapRules({ rules }: { readonly rules: readonly Rule[] }) {
  return (
    <>
      <details className="mt-2 max-[899px]:hidden">
        <summary className="cursor-pointer text-action">The same as a table</summary>
        <RuleTable rules={rules} />
      </details>
      <div className="min-[900px]:hidden">
        <RuleTable rules={rules} />
      </div>
    </>
  );
}

/** The rules of a map, one a row. */
function RuleTable({ rules }: { readonly rules: readonly Rule[] }) {
  return (
    <Table
      caption="Rules of the map in force"
      columns={columns}
      rows={rules}
      keyOf={({ name }) => name}
      empty="The map has no rule."
      rowClass="max-sm:grid max-sm:py-1 max-sm:leading-5"
    />
  );
}
