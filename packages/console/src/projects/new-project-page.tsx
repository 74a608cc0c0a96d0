import { useMutation, useQuery } from '@tanstack/react-query';
import { projectRoutes } from '@vaquero/contracts';
import { may } from '@vaquero/core';
import { type FormEvent, useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { Page } from '../frame/page.tsx';
import { api, queries } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField } from '../parts/field.tsx';
import { mine } from '../people/mine.ts';
import { type Source, SourceFields, sourceIn } from './source-fields.tsx';
import { nameTrialOf } from './trials.ts';

/** Making a project: all of it on one page, and what it will be called and answer at while one types. */
export function NewProjectPage() {
  const asked = useQuery(mine);
  return (
    <Page project={null} title="A new project" what="who you are" asked={asked}>
      {({ grants }) => (
        <>
          <AnswerLine below="A name, a repository, and which of its branches is the project’s own. All but the name can be changed later.">
            {may(grants, 'operate', null)
              ? 'What is it called, and where does it lie?'
              : 'Only an operator makes a project; ask one of them.'}
          </AnswerLine>
          {may(grants, 'operate', null) ? <NewProject /> : null}
        </>
      )}
    </Page>
  );
}

const nothingYet: Source = { kind: 'hosted', place: '', user: 'git', secret: '', isPrivate: false };

function NewProject() {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [source, setSource] = useState<Source>(nothingYet);
  const [branches, setBranches] = useState<readonly string[]>([]);
  const [branch, setBranch] = useState('main');
  const [folder, setFolder] = useState('');
  const trial = useQuery(nameTrialOf(useDeferredValue(name)));
  const make = useMutation({
    mutationFn: () =>
      api.call(projectRoutes.makeProjectRoute, {
        body: { name, branch, folder, repository: sourceIn(source) },
      }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['projects'] });
      await navigate(`/p/${name}`);
    },
  });
  const read = (found: readonly string[], first: string | null): void => {
    setBranches(found);
    setBranch(first ?? (found.includes('main') ? 'main' : (found[0] ?? 'main')));
  };
  const fault = trial.data?.fault ?? null;
  const isReady =
    name !== '' && fault === null && (source.kind === 'hosted' || source.place !== '');
  const send = (event: FormEvent): void => {
    event.preventDefault();
    make.mutate();
  };
  return (
    <form onSubmit={send} className="grid gap-6 border-t border-rule-2 pt-3 lg:grid-cols-2">
      <div className="flex flex-col gap-3">
        <TextField
          label="Its name: a–z, 0–9, hyphens"
          className="w-72 max-w-full"
          required
          autoComplete="off"
          fault={fault ?? undefined}
          value={name}
          onChange={(event) => setName(event.currentTarget.value.toLowerCase())}
        />
        {(trial.data?.free ?? []).length === 0 ? null : (
          <p>
            Free:{' '}
            {trial.data?.free.map((one) => (
              <button
                key={one}
                type="button"
                className="mr-3 text-action underline"
                onClick={() => setName(one)}
              >
                {one}
              </button>
            ))}
          </p>
        )}
        <SourceFields
          source={source}
          change={(now) => {
            setSource(now);
            setBranches([]);
          }}
          read={read}
        />
        {branches.length > 0 ? (
          <Choice
            label="Its own branch: what staging follows"
            className="w-72 max-w-full"
            value={branch}
            choices={branches.map((one) => [one, one] as const)}
            onChange={(event) => setBranch(event.currentTarget.value)}
          />
        ) : (
          <TextField
            label="Its own branch: what staging follows"
            className="w-72 max-w-full font-mono"
            required
            value={branch}
            onChange={(event) => setBranch(event.currentTarget.value)}
          />
        )}
        <TextField
          label="Folder in the repository; empty for the root"
          className="w-72 max-w-full font-mono"
          value={folder}
          onChange={(event) => setFolder(event.currentTarget.value)}
        />
      </div>
      <div className="flex flex-col gap-3">
        <WhatComes addresses={trial.data?.addresses ?? []} branch={branch} />
        <div className="border-2 border-ink bg-sheet p-3">
          <Button tone="action" type="submit" disabled={!isReady || make.isPending}>
            {make.isPending ? 'Making it' : `Make ${name === '' ? 'it' : name}`}
          </Button>
          <p className="mt-1 text-ink-2">
            {source.kind === 'hosted'
              ? 'Its repository is empty and waits for a push.'
              : 'Its newest commit is built at once.'}
          </p>
          {make.isError ? <Failed error={make.error} /> : null}
        </div>
      </div>
    </form>
  );
}

/** Where it will answer, and what its first map says. */
function WhatComes({
  addresses,
  branch,
}: {
  readonly addresses: readonly { readonly environment: string; readonly address: string }[];
  readonly branch: string;
}) {
  return (
    <section aria-label="What it will be">
      <h2 className="border-b border-rule-2 pb-0.5">
        <b className="font-[650]">What it will be</b>{' '}
        <span className="text-ink-2">by its first map, which you can set otherwise</span>
      </h2>
      <ul>
        {addresses.map(({ environment, address }) => (
          <li key={environment} className="border-b border-rule py-0.5">
            {environment} <code className="[overflow-wrap:anywhere]">{address}</code>
          </li>
        ))}
        {addresses.length === 0 ? (
          <li className="border-b border-rule py-0.5 text-ink-2">
            Its addresses stand here once it has a name.
          </li>
        ) : null}
        <li className="py-0.5 text-ink-2">
          staging follows <code>{branch}</code>, production takes what staging serves, and each pull
          request into <code>{branch}</code> has a preview of its own.
        </li>
      </ul>
    </section>
  );
}
