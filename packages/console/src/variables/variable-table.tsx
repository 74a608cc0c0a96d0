import { useMutation } from '@tanstack/react-query';
import { type VariablesReply, variableRoutes } from '@vaquero/contracts';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { placeInWords } from './variables-of.ts';

type Variable = VariablesReply['variables'][number];

/** What is set: by whom, for which builds, and the way to take it away. */
export function VariableTable({
  project,
  variables,
  places,
}: {
  readonly project: string;
} & Pick<VariablesReply, 'variables' | 'places'>) {
  const isMine = ({ environment }: Variable): boolean =>
    places.find((place) => place.environment === environment)?.may ?? places[0]?.may ?? false;
  const drop = useMutation({
    mutationFn: ({ name, environment }: Variable) =>
      api.call(variableRoutes.dropVariableRoute, {
        params: { project, variable: name },
        query: { environment },
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [project, 'variables'] }),
  });
  const columns: readonly Column<Variable>[] = [
    ...columnsFor(Date.now()),
    {
      head: '',
      className: 'py-0.5 text-right',
      cell: (one) => (
        <Button
          aria-label={`Take away ${one.name}`}
          disabled={drop.isPending || !isMine(one)}
          onClick={() => drop.mutate(one)}
        >
          Take away
        </Button>
      ),
    },
  ];
  return (
    <>
      <Table
        rowClass="max-sm:grid max-sm:py-2"
        caption="Variables and secrets"
        columns={columns}
        rows={variables}
        keyOf={(one) => `${one.name} ${one.environment}`}
        empty="None is set yet."
      />
      {drop.isError ? <Failed error={drop.error} /> : null}
    </>
  );
}

function columnsFor(now: number): readonly Column<Variable>[] {
  return [
    { head: 'name', isName: true, cell: ({ name }) => <code>{name}</code> },
    {
      head: 'for',
      cell: placeInWords,
    },
    {
      head: 'value',
      className: '[overflow-wrap:anywhere]',
      cell: ({ value }) =>
        value === null ? (
          <span className="text-ink-2">secret, never shown again</span>
        ) : (
          <code>{value}</code>
        ),
    },
    {
      head: 'set by',
      cell: ({ by, setAt }) => (
        <>
          {by}, <span className="text-ink-2">{moment(setAt, now)}</span>
        </>
      ),
    },
    {
      head: 'last used',
      from: 'sm',
      className: 'text-ink-2',
      cell: ({ usedAt }) => (usedAt === null ? 'never' : moment(usedAt, now)),
    },
  ];
}
