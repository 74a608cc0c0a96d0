import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import { lifeRoutes } from '@vaquero/contracts';
import { type FormEvent, useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMay } from '../people/use-may.ts';

const renameTrialOf = (project: string, name: string) =>
  queryOptions({
    queryKey: [project, 'rename-trial', name],
    queryFn: ({ signal }) =>
      api.call(lifeRoutes.tryRenameRoute, { params: { project }, body: { name }, signal }),
    retry: false,
  });

const endTrialOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'end-trial'],
    queryFn: ({ signal }) =>
      api.call(lifeRoutes.tryEndProjectRoute, { params: { project }, signal }),
    retry: false,
  });

/** The name of a project: what another one would change is said before it is set. */
export function NameSetting({ project }: { readonly project: string }) {
  const { may, why } = useMay(project, 'maintain');
  const [name, setName] = useState(project);
  const [reason, setReason] = useState('');
  const navigate = useNavigate();
  const tried = useDeferredValue(name.trim());
  const isOther = tried !== project && tried !== '';
  const trial = useQuery({ ...renameTrialOf(project, tried), enabled: isOther && may });
  const set = useMutation({
    mutationFn: () =>
      api.call(lifeRoutes.renameRoute, { params: { project }, body: { name: tried, reason } }),
    onSuccess: async (now) => {
      await queries.invalidateQueries();
      await navigate(`/p/${now.name}/settings`);
    },
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    set.mutate();
  };
  return (
    <section aria-label="Name" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Name</b>{' '}
        <span className="text-ink-2">part of every address; former ones lead on for 30 days</span>
      </h2>
      <form onSubmit={send} aria-label="Name">
        <fieldset disabled={!may} className="flex flex-wrap items-end gap-3">
          <TextField
            label="Its name"
            className="w-56 max-w-full"
            maxLength={40}
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          {isOther ? (
            <>
              <TextField
                label="Why another name"
                className="said w-72 max-w-full"
                maxLength={500}
                value={reason}
                onChange={(event) => setReason(event.currentTarget.value)}
              />
              <Button
                tone="action"
                type="submit"
                disabled={!trial.isSuccess || reason.trim() === '' || set.isPending}
              >
                Call it {tried}
              </Button>
            </>
          ) : null}
        </fieldset>
        {may ? null : <p className="mt-1 text-ink-2">{why}</p>}
        {isOther && trial.data !== undefined ? <Says says={trial.data.says} /> : null}
        {isOther && trial.isError ? <Failed error={trial.error} /> : null}
        {set.isError ? <Failed error={set.error} /> : null}
      </form>
    </section>
  );
}

/** The end of a project: what goes and what stays is said, and its name is typed. */
export function EndOfProject({ project }: { readonly project: string }) {
  const { may, why } = useMay(project, 'maintain');
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState('');
  const [reason, setReason] = useState('');
  const trial = useQuery({ ...endTrialOf(project), enabled: open });
  const end = useMutation({
    mutationFn: () =>
      api.call(lifeRoutes.endProjectRoute, { params: { project }, body: { typed, reason } }),
    onSuccess: async () => {
      setOpen(false);
      await queries.invalidateQueries();
    },
  });
  return (
    <section aria-label="End of the project" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">End of the project</b>{' '}
        <span className="text-ink-2">for good; its history stays to be read</span>
      </h2>
      <Button disabled={!may} data-act="end-project" onClick={() => setOpen(true)}>
        End {project}…
      </Button>
      {may ? null : <p className="mt-1 text-ink-2">{why}</p>}
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`End ${project} for good?`}
        says="Nothing brings it back."
        acts={
          <Button
            tone="action"
            disabled={
              typed !== project || reason.trim() === '' || end.isPending || !trial.isSuccess
            }
            onClick={() => end.mutate()}
          >
            End {project}
          </Button>
        }
      >
        {trial.data === undefined ? null : <Says says={trial.data.says} />}
        {trial.isError ? <Failed error={trial.error} /> : null}
        <div className="mt-3 flex flex-col gap-3">
          <TextField
            label="Why, for whoever looks back"
            className="said"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
          <TextField
            label={`Type ${project} to end it`}
            autoComplete="off"
            value={typed}
            onChange={(event) => setTyped(event.currentTarget.value)}
          />
        </div>
        {end.isError ? <Failed error={end.error} /> : null}
      </Sheet>
    </section>
  );
}

function Says({ says }: { readonly says: readonly string[] }) {
  return (
    <ul className="mt-2 border-l-4 border-rule-2 pl-2" role="status">
      {says.map((line) => (
        <li key={line} className="[overflow-wrap:anywhere]">
          {line}
        </li>
      ))}
    </ul>
  );
}
