import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import { peopleRoutes } from '@vaquero/contracts';
import { type ProjectRole, scopeInWords } from '@vaquero/core';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField } from '../parts/field.tsx';
import { ShownOnce } from '../parts/shown-once.tsx';
import { Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { projectsSeen } from '../projects/projects-seen.ts';
import { RoleChoice } from './role-choice.tsx';

const mine = queryOptions({
  queryKey: ['my-tokens'],
  queryFn: ({ signal }) => api.call(peopleRoutes.listTokensRoute, { signal }),
});

/** One's tokens: what each opens, when it was used, and the way to take it back; a narrow one for a program. */
export function MyTokens() {
  const { data, error, dataUpdatedAt } = useQuery(mine);
  const revoke = useMutation({
    mutationFn: (token: string) => api.call(peopleRoutes.revokeTokenRoute, { params: { token } }),
    onSettled: () => queries.invalidateQueries(mine),
  });
  return (
    <section aria-label="Your tokens" className="lg:col-span-2">
      <h2 className="pb-1">
        <b className="font-[650]">Your tokens</b>{' '}
        <span className="text-ink-2">what programs come in by; none may more than you</span>
      </h2>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <Table
          caption="Your tokens"
          rows={data.tokens}
          keyOf={({ id }) => id}
          empty="You have none."
          rowClass="max-sm:grid max-sm:py-1"
          columns={[
            { head: 'name', isName: true, cell: ({ name }) => name },
            { head: 'opens', cell: scopeInWords },
            { head: 'until', cell: ({ expiresAt }) => moment(expiresAt, dataUpdatedAt) },
            {
              head: 'last used',
              cell: ({ lastUsedAt }) =>
                lastUsedAt === null ? 'never' : moment(lastUsedAt, dataUpdatedAt),
            },
            {
              head: 'take back',
              cell: ({ id, name }) => (
                <Button
                  aria-label={`Take ${name} back`}
                  disabled={revoke.isPending}
                  onClick={() => revoke.mutate(id)}
                >
                  Take back
                </Button>
              ),
            },
          ]}
        />
      )}
      {revoke.isError ? <Failed error={revoke.error} /> : null}
      <NewToken />
    </section>
  );
}

/** A token for a program: of one project, with a role at most. Its secret is shown this once. */
function NewToken() {
  const { data: projects = [] } = useQuery(projectsSeen);
  const [name, setName] = useState('');
  const [project, setProject] = useState('');
  const [role, setRole] = useState<ProjectRole>('reader');
  const chosen = project === '' ? (projects[0]?.name ?? '') : project;
  const make = useMutation({
    mutationFn: () =>
      api.call(peopleRoutes.makeTokenRoute, {
        body: { name, scope: { projects: [chosen], role, environments: null } },
      }),
    onSuccess: () => setName(''),
    onSettled: () => queries.invalidateQueries(mine),
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    make.mutate();
  };
  if (projects.length === 0) return null;
  return (
    <form onSubmit={send} aria-label="A token for a program" className="mt-3">
      <div className="flex flex-wrap items-end gap-3">
        <TextField
          label="A token for a program, called"
          className="w-56 max-w-full"
          required
          maxLength={100}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Choice
          label="Of"
          value={chosen}
          choices={projects.map((one) => [one.name, one.name] as const)}
          onChange={(event) => setProject(event.currentTarget.value)}
        />
        <RoleChoice label="At most as" value={role} onChange={setRole} />
        <Button type="submit" disabled={name.trim() === '' || make.isPending}>
          Make it
        </Button>
      </div>
      {make.isSuccess ? (
        <ShownOnce secret={make.data.secret}>Copy it now, it is not shown again:</ShownOnce>
      ) : null}
      {make.isError ? <Failed error={make.error} /> : null}
    </form>
  );
}
