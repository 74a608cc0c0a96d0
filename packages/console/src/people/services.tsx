import { useMutation, useQuery } from '@tanstack/react-query';
import { type ServiceSeen, serviceRoutes } from '@vaquero/contracts';
import { type ProjectRole, scopeInWords } from '@vaquero/core';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { ShownOnce } from '../parts/shown-once.tsx';
import { Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { NewMember } from './new-member.tsx';
import { RoleChoice } from './role-choice.tsx';
import { servicesOf } from './services-of.ts';
import { useMay } from './use-may.ts';

/** Programs of a project: members with a role and tokens, whoever made them. */
export function Services({ project }: { readonly project: string }) {
  const { may, why } = useMay(project, 'maintain');
  const { data, error, dataUpdatedAt } = useQuery({ ...servicesOf(project), enabled: may });
  return (
    <section aria-label="Programs" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Programs</b>{' '}
        <span className="text-ink-2">
          {may
            ? 'services of this project; what they open stays when whoever made them leaves'
            : why}
        </span>
      </h2>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <>
          {data.services.length === 0 ? (
            <p className="border-t border-rule py-2">No service yet.</p>
          ) : (
            data.services.map((service) => (
              <OneService
                key={service.name}
                project={project}
                service={service}
                now={dataUpdatedAt}
              />
            ))
          )}
          <NewService project={project} />
        </>
      )}
    </section>
  );
}

function OneService({
  project,
  service,
  now,
}: {
  readonly project: string;
  readonly service: ServiceSeen;
  readonly now: number;
}) {
  const [name, setName] = useState('');
  const params = { project, service: service.name };
  const settled = () => queries.invalidateQueries({ queryKey: [project] });
  const make = useMutation({
    mutationFn: () =>
      api.call(serviceRoutes.makeServiceTokenRoute, { params, body: { name, environments: null } }),
    onSuccess: () => setName(''),
    onSettled: settled,
  });
  const end = useMutation({
    mutationFn: (token: string | null) =>
      token === null
        ? api.call(serviceRoutes.endServiceRoute, { params })
        : api.call(serviceRoutes.endServiceTokenRoute, { params: { ...params, token } }),
    onSettled: settled,
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    make.mutate();
  };
  return (
    <section aria-label={service.shownAs} className="border-t border-rule py-2">
      <h3 className="flex flex-wrap items-baseline gap-2">
        <b className="font-[650]">{service.shownAs}</b> <code>{service.name}</code>{' '}
        <span className="text-ink-2">{service.role ?? 'no role any more'}</span>
        <Button
          className="ml-auto"
          disabled={end.isPending}
          onClick={() => end.mutate(null)}
          aria-label={`End ${service.shownAs} and its tokens`}
        >
          End it and its tokens
        </Button>
      </h3>
      <Table
        caption={`Tokens of ${service.shownAs}`}
        rows={service.tokens}
        keyOf={({ id }) => id}
        empty="It has no token."
        rowClass="max-sm:grid max-sm:py-1"
        columns={[
          { head: 'token', isName: true, cell: (token) => token.name },
          { head: 'opens', cell: scopeInWords },
          { head: 'until', cell: ({ expiresAt }) => moment(expiresAt, now) },
          {
            head: 'last used',
            cell: ({ lastUsedAt }) => (lastUsedAt === null ? 'never' : moment(lastUsedAt, now)),
          },
          {
            head: 'take back',
            cell: (token) => (
              <Button
                aria-label={`Take ${token.name} of ${service.shownAs} back`}
                disabled={end.isPending}
                onClick={() => end.mutate(token.id)}
              >
                Take back
              </Button>
            ),
          },
        ]}
      />
      <form onSubmit={send} className="mt-1 flex flex-wrap items-end gap-3">
        <TextField
          label={`A token of ${service.shownAs}, called`}
          required
          maxLength={100}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Button
          type="submit"
          disabled={name.trim() === '' || make.isPending || service.role === null}
        >
          Make it
        </Button>
      </form>
      {make.isSuccess ? (
        <ShownOnce secret={make.data.secret}>Copy it now, it is not shown again:</ShownOnce>
      ) : null}
      {make.isError ? <Failed error={make.error} /> : null}
      {end.isError ? <Failed error={end.error} /> : null}
    </section>
  );
}

function NewService({ project }: { readonly project: string }) {
  const [role, setRole] = useState<ProjectRole>('reader');
  return (
    <NewMember
      what="service"
      make={(service, shownAs) =>
        api.call(serviceRoutes.makeServiceRoute, {
          params: { project, service },
          body: { shownAs, role },
        })
      }
      settled={() => queries.invalidateQueries({ queryKey: [project] })}
    >
      <RoleChoice label="As" value={role} onChange={setRole} />
    </NewMember>
  );
}
