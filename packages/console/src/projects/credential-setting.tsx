import { useMutation, useQuery } from '@tanstack/react-query';
import { credentialRoutes, type ProjectSeen } from '@vaquero/contracts';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { day } from '../parts/words.ts';
import { useMay } from '../people/use-may.ts';
import { CredentialFields, type CredentialTyped } from './credential-fields.tsx';
import { KeySetting } from './key-setting.tsx';
import { projectsSeen } from './projects-seen.ts';
import { TakeBack } from './take-back.tsx';
import { TroubleLine } from './trouble-line.tsx';

/** What a repository elsewhere is read with: set anew, once it was tried, or taken back. Nothing for one that is hosted here. */
export function CredentialSetting({ project }: { readonly project: string }) {
  const { data: projects } = useQuery(projectsSeen);
  const repository = projects?.find(({ name }) => name === project)?.repository;
  // The form begins with what is known: before that there is none.
  if (repository?.kind === 'ssh')
    return <KeySetting key={repository.place} project={project} repository={repository} />;
  return repository?.kind === 'http' ? (
    <CredentialForm key={repository.place} project={project} repository={repository} />
  ) : null;
}

function CredentialForm({
  project,
  repository,
}: {
  readonly project: string;
  readonly repository: ProjectSeen['repository'];
}) {
  const { may, why } = useMay(repository.home, 'maintain');
  const [typed, setTyped] = useState<CredentialTyped>({
    user: repository.credential?.user ?? 'git',
    secret: '',
  });
  const params = { project };
  const settled = () => queries.invalidateQueries({ queryKey: ['projects'] });
  const set = useMutation({
    mutationFn: () => api.call(credentialRoutes.setCredentialRoute, { params, body: typed }),
    onSuccess: () => setTyped({ ...typed, secret: '' }),
    onSettled: settled,
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    set.mutate();
  };
  const { credential, place, trouble } = repository;
  return (
    <form onSubmit={send} aria-label="What it is read with" className="mt-3">
      <p>
        <code className="[overflow-wrap:anywhere]">{place}</code>{' '}
        {credential === null
          ? 'is read without a token'
          : `is read as ${credential.user}, with a token that ${credential.by} set on ${day(credential.setAt)}`}
        .
      </p>
      <TroubleLine trouble={trouble} />
      <fieldset disabled={!may} className="mt-1 flex flex-wrap items-end gap-3">
        <CredentialFields value={typed} onChange={(change) => setTyped({ ...typed, ...change })} />
        <Button tone="action" type="submit" disabled={typed.secret === '' || set.isPending}>
          {set.isPending ? 'Trying it' : 'Try and keep it'}
        </Button>
        {credential === null ? null : <TakeBack project={project} />}
      </fieldset>
      {may ? null : <p className="mt-1 text-ink-2">{why}</p>}
      {set.isError ? <Failed error={set.error} /> : null}
    </form>
  );
}
