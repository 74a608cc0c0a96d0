import { useMutation } from '@tanstack/react-query';
import { credentialRoutes, type ProjectSeen } from '@vaquero/contracts';
import { useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { day } from '../parts/words.ts';
import { useMay } from '../people/use-may.ts';
import { KeyFields, type KeyTaken } from './key-fields.tsx';
import { TakeBack } from './take-back.tsx';
import { TroubleLine } from './trouble-line.tsx';

/** The key that a repository is read with over SSH: another takes its place once it was tried, or it is taken back. */
export function KeySetting({
  project,
  repository: { credential, home, place, trouble },
}: {
  readonly project: string;
  readonly repository: ProjectSeen['repository'];
}) {
  const { may, why } = useMay(home, 'maintain');
  const [taken, setTaken] = useState<KeyTaken | null>(null);
  const params = { project };
  const settled = () => queries.invalidateQueries({ queryKey: ['projects'] });
  const set = useMutation({
    mutationFn: (body: { readonly key: string; readonly hostKey: string }) =>
      api.call(credentialRoutes.confirmKeyRoute, { params, body }),
    onSuccess: () => setTaken(null),
    onSettled: settled,
  });
  const hostKey = taken?.hostKey ?? null;
  return (
    <section aria-label="What it is read with" className="mt-3">
      <p>
        <code className="[overflow-wrap:anywhere]">{place}</code>{' '}
        {credential === null
          ? 'is reached over SSH, and has no key'
          : `is read over SSH as ${credential.user}, with a key that ${credential.by} set on ${day(credential.setAt)}`}
        .
      </p>
      {credential?.publicKey == null ? null : (
        <dl className="grid grid-cols-[7rem_1fr] gap-y-0.5 max-sm:grid-cols-1">
          <dt className="text-ink-2">Its public half</dt>
          <dd>
            <code className="select-all [overflow-wrap:anywhere]">{credential.publicKey}</code>
          </dd>
          <dt className="text-ink-2">The host’s key</dt>
          <dd>
            <code className="[overflow-wrap:anywhere]">{credential.hostKey}</code>
          </dd>
        </dl>
      )}
      <TroubleLine trouble={trouble} />
      <fieldset disabled={!may} className="mt-2 flex flex-wrap items-end gap-3">
        <KeyFields wanted={{ project }} taken={taken} onTaken={setTaken} />
        {taken === null ? null : (
          <Button
            tone="action"
            disabled={hostKey === null || set.isPending}
            onClick={() => hostKey !== null && set.mutate({ key: taken.key, hostKey })}
          >
            {set.isPending ? 'Trying it' : 'It is added: try it and keep it'}
          </Button>
        )}
        {credential === null ? null : <TakeBack project={project} />}
      </fieldset>
      {may ? null : <p className="mt-1 text-ink-2">{why}</p>}
      {set.isError ? <Failed error={set.error} /> : null}
    </section>
  );
}
