import { useMutation } from '@tanstack/react-query';
import { CallRefused, type ProjectSeen, projectRoutes } from '@vaquero/contracts';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField, Tick } from '../parts/field.tsx';
import { useMay } from '../people/use-may.ts';
import { isNamed, kinds, type Source, SourceFields, sourceIn } from './source-fields.tsx';

const nothingYet: Source = {
  kind: 'http',
  place: '',
  user: 'git',
  secret: '',
  isPrivate: false,
  sshKey: null,
};
const elsewhere = kinds.filter(([kind]) => kind === 'http' || kind === 'path');

/** Has a repository elsewhere read from another address; the form stands there once somebody asks for it. */
export function AddressSetting({
  project,
  place,
}: {
  readonly project: string;
  readonly place: ProjectSeen['repository']['place'];
}) {
  const { may, why } = useMay(project, 'operate');
  const [isOpen, setOpen] = useState(false);
  if (!isOpen)
    return (
      <p className="mt-2">
        <Button disabled={!may} onClick={() => setOpen(true)}>
          It has moved
        </Button>{' '}
        {may ? null : <span className="text-ink-2">{why}</span>}
      </p>
    );
  return <AddressForm project={project} place={place} onLeave={() => setOpen(false)} />;
}

function AddressForm({
  project,
  place,
  onLeave,
}: {
  readonly project: string;
  readonly place: string;
  readonly onLeave: () => void;
}) {
  const [source, setSource] = useState(nothingYet);
  const [reason, setReason] = useState('');
  const [isAnother, setAnother] = useState(false);
  const move = useMutation({
    mutationFn: () => {
      const repository = sourceIn(source);
      if (repository.kind === 'hosted' || repository.kind === 'shared')
        throw new TypeError('only what lies elsewhere moves');
      return api.call(projectRoutes.moveRepositoryRoute, {
        params: { project },
        body: { repository, reason, from: place, isAnother },
      });
    },
    onSuccess: onLeave,
    onSettled: () => queries.invalidateQueries({ queryKey: ['projects'] }),
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    move.mutate();
  };
  const isOther =
    move.error instanceof CallRefused && move.error.problem.code === 'repository-another';
  return (
    <form
      onSubmit={send}
      aria-label="Another address"
      className="mt-2 border-2 border-ink bg-sheet p-3"
    >
      <p className="pb-2">
        <b className="font-[650]">Another address</b>{' '}
        <span className="text-ink-2">
          it is tried first, and must be the same repository; what opened the old one is not sent
          there
        </span>
      </p>
      <div className="flex flex-col gap-3">
        <SourceFields
          source={source}
          offered={elsewhere}
          change={setSource}
          read={() => undefined}
        />
        <TextField
          label="Why, for whoever looks back"
          className="said w-72 max-w-full"
          required
          maxLength={500}
          value={reason}
          onChange={(event) => setReason(event.currentTarget.value)}
        />
        {isOther || isAnother ? (
          <Tick
            label="Another repository is meant: its commits are built from now on, what was built stays"
            checked={isAnother}
            onChange={(event) => setAnother(event.currentTarget.checked)}
          />
        ) : null}
        <div className="flex gap-3">
          <Button
            tone="action"
            type="submit"
            disabled={!isNamed(source) || reason.trim() === '' || move.isPending}
          >
            {move.isPending ? 'Trying it' : 'Read it from there'}
          </Button>
          <Button onClick={onLeave}>Leave it</Button>
        </div>
      </div>
      {move.isError ? <Failed error={move.error} /> : null}
    </form>
  );
}
