import { useMutation, useQuery } from '@tanstack/react-query';
import { type EdgeSeen, type RunnerSeen, runnerRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { Page } from '../frame/page.tsx';
import { api } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { AddMachine } from './add-machine.tsx';
import { DropMachine } from './drop-machine.tsx';
import { machines, settled } from './machines-of.ts';

/** An operator's page: what builds, and what serves. */
export function MachinesPage() {
  const asked = useQuery(machines);
  return (
    <Page project={null} title="Machines" what="what builds and what serves" asked={asked}>
      {({ runners, edges }) => (
        <>
          <AnswerLine below={below(runners)}>{inWords(runners, edges)}</AnswerLine>
          <Runners runners={runners} now={asked.dataUpdatedAt} />
          <Edges edges={edges} now={asked.dataUpdatedAt} />
        </>
      )}
    </Page>
  );
}

/** The sentence of the page: who is silent stands first. */
function inWords(runners: readonly RunnerSeen[], edges: readonly EdgeSeen[]): string {
  const silent = [...runners, ...edges].filter(({ present }) => !present).map(({ name }) => name);
  if (silent.length > 0)
    return `${silent.join(' and ')} ${silent.length === 1 ? 'is' : 'are'} silent.`;
  return `${counted(runners.length, 'runner')} and ${counted(edges.length, 'edge')} are heard of.`;
}

function below(runners: readonly RunnerSeen[]): string {
  const here = runners.filter(({ present }) => present);
  const slots = here.reduce((sum, one) => sum + one.slots, 0);
  const building = here.reduce((sum, one) => sum + one.building, 0);
  return `${building} of ${counted(slots, 'slot')} build now.`;
}

const heard = (at: number | null, isPresent: boolean, now: number): string =>
  at === null ? 'never yet' : isPresent ? 'now' : `silent since ${moment(at, now)}`;

function Runners({
  runners,
  now,
}: {
  readonly runners: readonly RunnerSeen[];
  readonly now: number;
}) {
  return (
    <section aria-label="Runners">
      <h2 className="pb-1 font-[650]">Runners</h2>
      <Table
        caption="What builds"
        rows={runners}
        keyOf={({ name }) => name}
        empty="No runner: nothing is built."
        rowClass="max-sm:grid max-sm:py-2"
        columns={[
          { head: 'name', isName: true, cell: ({ name }) => name },
          { head: 'bears', cell: ({ labels }) => labels.join(', ') || 'no label' },
          {
            head: 'builds',
            cell: ({ building, slots, draining }) =>
              `${building} of ${slots}${draining ? ', and takes no more' : ''}`,
          },
          {
            head: 'heard of',
            cell: ({ heardAt, present }) => heard(heardAt, present, now),
          },
          {
            head: 'acts',
            cell: (one) => (
              <span className="flex flex-wrap gap-2">
                <Draining runner={one} />
                <DropMachine what="runner" name={one.name} />
              </span>
            ),
          },
        ]}
      />
      <AddMachine what="runner" />
    </section>
  );
}

/** Lets a runner finish what it builds, or gives it builds again. */
function Draining({ runner: { name, draining } }: { readonly runner: RunnerSeen }) {
  const set = useMutation({
    mutationFn: () =>
      api.call(runnerRoutes.setRunnerRoute, {
        params: { runner: name },
        body: { draining: !draining },
      }),
    onSettled: settled,
  });
  return (
    <>
      <Button
        aria-label={draining ? `Give ${name} builds again` : `Give ${name} no more builds`}
        disabled={set.isPending}
        onClick={() => set.mutate()}
      >
        {draining ? 'Builds again' : 'No more builds'}
      </Button>
      {set.isError ? <Failed error={set.error} /> : null}
    </>
  );
}

function Edges({ edges, now }: { readonly edges: readonly EdgeSeen[]; readonly now: number }) {
  return (
    <section aria-label="Edges" className="mt-6">
      <h2 className="pb-1 font-[650]">Edges</h2>
      <Table
        caption="What serves"
        rows={edges}
        keyOf={({ name }) => name}
        empty="No edge: nothing is served."
        rowClass="max-sm:grid max-sm:py-2"
        columns={[
          { head: 'name', isName: true, cell: ({ name }) => name },
          {
            head: 'answers with',
            cell: ({ revision, current }) =>
              current ? 'all that was decided' : `what was decided up to entry ${revision}`,
          },
          { head: 'heard of', cell: ({ heardAt, present }) => heard(heardAt, present, now) },
          { head: 'acts', cell: ({ name }) => <DropMachine what="edge" name={name} /> },
        ]}
      />
      <AddMachine what="edge" />
    </section>
  );
}
