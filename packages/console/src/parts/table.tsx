import type { ReactNode } from 'react';
import { merge } from './merge.ts';

/** A column: what stands above it, and what a row has there. */
export interface Column<Row> {
  readonly head: string;
  readonly cell: (row: Row, place: number) => ReactNode;
  /** The column that names its row. */
  readonly isName?: boolean;
  readonly isFigure?: boolean;
  /** The narrowest screen that has room for it. */
  readonly from?: 'sm' | 'lg';
  readonly className?: string;
}

interface TableProps<Row> {
  /** What the table lists; read aloud, and seen where it is wanted. */
  readonly caption: string;
  readonly columns: readonly Column<Row>[];
  readonly rows: readonly Row[];
  readonly keyOf: (row: Row) => string | number;
  /** What is said when there is no row. */
  readonly empty: ReactNode;
  /** Its headings are read aloud only: what stands below them says itself what it is. */
  readonly isHeadless?: boolean;
  readonly rowClass?: string;
  readonly className?: string;
}

const hidden = { sm: 'max-sm:hidden', lg: 'max-lg:hidden' } as const;

/** A table of the console: a heading for each column, a name for each row, a caption, a word when it is empty. */
export function Table<Row>(props: TableProps<Row>) {
  const { caption, columns, rows, keyOf, empty, isHeadless, rowClass, className } = props;
  if (rows.length === 0) return <p className="border-t border-rule py-2">{empty}</p>;
  const classOf = ({ from, isFigure }: Column<Row>) =>
    merge('pr-3', from === undefined ? '' : hidden[from], isFigure === true ? 'text-right' : '');
  return (
    <table className={merge('w-full border-collapse', className)}>
      <caption className="sr-only">{caption}</caption>
      <thead className={isHeadless === true ? 'sr-only' : 'max-sm:sr-only'}>
        <tr className="border-b border-rule-2 text-ink-2">
          {columns.map((column) => (
            <th key={column.head} scope="col" className={classOf(column)}>
              {column.head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row, place) => (
          <tr
            key={keyOf(row)}
            className={merge('border-b border-rule align-top leading-[25px]', rowClass)}
          >
            {columns.map((column) => {
              const of = merge(classOf(column), column.className);
              return column.isName === true ? (
                <th key={column.head} scope="row" className={of}>
                  {column.cell(row, place)}
                </th>
              ) : (
                <td key={column.head} className={of}>
                  {column.cell(row, place)}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
