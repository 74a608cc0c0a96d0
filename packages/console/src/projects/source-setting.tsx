import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import { type SourceReply, type SourceTrial, sourceRoutes } from '@vaquero/contracts';
import { type FormEvent, useDeferredValue, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { useMay } from '../people/use-may.ts';
import { CredentialSetting } from './credential-setting.tsx';
import { sourceOf } from './source-of.ts';

const sourceTrialOf = (project: string, wanted: Wanted) =>
  queryOptions({
    queryKey: [project, 'source-trial', wanted.branch, wanted.folder],
    queryFn: ({ signal }) =>
      api.call(sourceRoutes.trySourceRoute, { params: { project }, body: wanted, signal }),
    retry: false,
  });

interface Wanted {
  readonly branch: string;
  readonly folder: string;
}

/** Which branch and folder the project is built from; what another would change is said before it is set. */
export function SourceSetting({ project }: { readonly project: string }) {
  const { data } = useQuery(sourceOf(project));
  return data === undefined ? null : (
    <section aria-label="Source" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Source</b>{' '}
        <span className="text-ink-2">the branch and folder of the repository it is built from</span>
      </h2>
      <SourceForm key={data.version} project={project} source={data} />
      <CredentialSetting project={project} />
    </section>
  );
}

function SourceForm({
  project,
  source,
}: {
  readonly project: string;
  readonly source: SourceReply;
}) {
  const { may, why } = useMay(project, 'maintain');
  const [wanted, setWanted] = useState<Wanted>({ branch: source.branch, folder: source.folder });
  const [reason, setReason] = useState('');
  const tried = useDeferredValue(wanted);
  const isOther = wanted.branch !== source.branch || wanted.folder !== source.folder;
  const trial = useQuery({ ...sourceTrialOf(project, tried), enabled: isOther && may });
  const set = useMutation({
    mutationFn: () =>
      api.call(sourceRoutes.setSourceRoute, {
        params: { project },
        body: { ...wanted, reason },
        seen: source.version,
      }),
    onSuccess: () => queries.invalidateQueries({ queryKey: [project] }),
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    set.mutate();
  };
  const branches = [...new Set([source.branch, ...source.branches])];
  const says = trial.data?.says ?? [];
  return (
    <form onSubmit={send} aria-label="Source">
      <fieldset disabled={!may} className="flex flex-wrap items-end gap-3">
        <Choice
          label="Its own branch"
          value={wanted.branch}
          choices={branches.map((name) => [name, name] as const)}
          onChange={(event) => setWanted({ ...wanted, branch: event.currentTarget.value })}
        />
        <TextField
          label="Folder; empty for the root"
          className="w-64 max-w-full font-mono"
          value={wanted.folder}
          onChange={(event) => setWanted({ ...wanted, folder: event.currentTarget.value })}
        />
        {isOther ? (
          <>
            <TextField
              label="Why, for whoever looks back"
              className="said w-72 max-w-full"
              maxLength={500}
              value={reason}
              onChange={(event) => setReason(event.currentTarget.value)}
            />
            <Button
              tone="action"
              type="submit"
              disabled={says.length === 0 || reason.trim() === '' || set.isPending}
            >
              Build it from there
            </Button>
          </>
        ) : null}
      </fieldset>
      {may ? null : <p className="mt-1 text-ink-2">{why}</p>}
      {isOther && trial.data !== undefined ? <Trial trial={trial.data} /> : null}
      {isOther && trial.isError ? <Failed error={trial.error} /> : null}
      {set.isError ? <Failed error={set.error} /> : null}
    </form>
  );
}

/** What would change, and the recipes that the newest commit would be built by. */
function Trial({ trial: { says, recipes, source, head } }: { readonly trial: SourceTrial }) {
  return (
    <div className="mt-2 border-l-4 border-rule-2 pl-2" role="status">
      <ul>
        {says.length === 0 ? <li>Nothing would change.</li> : null}
        {says.map((line) => (
          <li key={line}>{line}</li>
        ))}
        {recipes.map(({ name, from, steps, failure }) => (
          <li key={name} className={failure === null ? '' : 'text-warn'}>
            {failure === null ? (
              <>
                The recipe <b className="font-[650]">{name}</b>, {whence[from ?? 'file']}:{' '}
                {steps.join(', ') || 'no step'}.
              </>
            ) : (
              <>
                <Glyph name="warned" /> {name}: {failure}
              </>
            )}
          </li>
        ))}
      </ul>
      {head === null ? null : (
        <p className="text-ink-2">
          Read at {head.commit.slice(0, 8)} of {source.branch},{' '}
          <span className="said">{head.subject}</span>.
        </p>
      )}
    </div>
  );
}

const whence = {
  file: 'of its file',
  accepted: 'as it was accepted',
  proposed: 'as Vaquero proposes it',
} as const;
