import { useMutation, useQuery } from '@tanstack/react-query';
import { type ProjectTrial, projectRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField, Tick } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { counted } from '../parts/words.ts';
import { CredentialFields } from './credential-fields.tsx';
import { projectsSeen } from './projects-seen.ts';

/** A repository as somebody fills it in. */
export interface Source {
  readonly kind: 'hosted' | 'http' | 'path' | 'shared';
  readonly place: string;
  readonly isPrivate: boolean;
  readonly user: string;
  readonly secret: string;
}

type Sent = NonNullable<(typeof projectRoutes.tryProjectRoute.body)['_zod']['input']['repository']>;

const kinds = [
  ['hosted', 'hosted here: you push to it'],
  ['http', 'at an address elsewhere'],
  ['path', 'a folder that the operator opened'],
  ['shared', 'that of another project'],
] as const;
const labels = { hosted: '', http: 'Its address', path: 'The folder', shared: '' } as const;

/** A repository as the service takes it. */
export function sourceIn({ kind, place, isPrivate, user, secret }: Source): Sent {
  if (kind === 'hosted') return { kind };
  if (kind === 'path') return { kind, path: place };
  if (kind === 'shared') return { kind, project: place };
  return { kind, url: place, ...(isPrivate ? { credential: { user, secret } } : {}) };
}

/** Which repository: what is at it is read before one chooses its branch. */
export function SourceFields({
  source,
  change,
  read,
}: {
  readonly source: Source;
  readonly change: (source: Source) => void;
  readonly read: (branches: readonly string[], first: string | null) => void;
}) {
  const { data: projects = [] } = useQuery(projectsSeen);
  const look = useMutation({
    mutationFn: () =>
      api.call(projectRoutes.tryProjectRoute, { body: { name: '', repository: sourceIn(source) } }),
    onSuccess: ({ repository }) => read(repository?.branches ?? [], repository?.first ?? null),
  });
  const set = (part: Partial<Source>): void => {
    look.reset();
    change({ ...source, ...part });
  };
  const others = projects.map(({ name }) => [name, name] as const);
  return (
    <>
      <Choice
        label="Its repository"
        className="w-72 max-w-full"
        value={source.kind}
        choices={kinds.filter(([kind]) => kind !== 'shared' || others.length > 0)}
        onChange={(event) => {
          const kind = kinds.find(([one]) => one === event.currentTarget.value)?.[0] ?? 'hosted';
          set({ kind, place: kind === 'shared' ? (others[0]?.[0] ?? '') : '' });
        }}
      />
      {source.kind === 'http' || source.kind === 'path' ? (
        <TextField
          label={labels[source.kind]}
          className="w-full font-mono"
          required
          placeholder={source.kind === 'http' ? 'https://' : '/'}
          value={source.place}
          onChange={(event) => set({ place: event.currentTarget.value })}
        />
      ) : null}
      {source.kind === 'shared' ? (
        <Choice
          label="Which project’s"
          className="w-72 max-w-full"
          value={source.place}
          choices={others}
          onChange={(event) => set({ place: event.currentTarget.value })}
        />
      ) : null}
      {source.kind === 'http' ? <PrivateFields source={source} set={set} /> : null}
      {source.kind === 'hosted' ? null : (
        <div className="flex flex-wrap items-baseline gap-3">
          <Button disabled={source.place === '' || look.isPending} onClick={() => look.mutate()}>
            {look.isPending ? 'Reading it' : 'Read it'}
          </Button>
          {look.data?.repository == null ? null : <Found repository={look.data.repository} />}
        </div>
      )}
      {look.isError ? <Failed error={look.error} /> : null}
    </>
  );
}

/** What a private one is read with. */
function PrivateFields({
  source,
  set,
}: {
  readonly source: Source;
  readonly set: (part: Partial<Source>) => void;
}) {
  return (
    <>
      <Tick
        label="It is private: Vaquero reads it with a token"
        checked={source.isPrivate}
        onChange={(event) => set({ isPrivate: event.currentTarget.checked })}
      />
      {source.isPrivate ? (
        <div className="flex flex-wrap gap-3">
          <CredentialFields value={source} onChange={set} />
        </div>
      ) : null}
    </>
  );
}

function Found({
  repository: { branches },
}: {
  readonly repository: NonNullable<ProjectTrial['repository']>;
}) {
  return (
    <span role="status">
      <Glyph name="passed" />{' '}
      {branches.length === 0
        ? 'It can be read, and has no branch yet.'
        : `It can be read: ${counted(branches.length, 'branch').replace('branchs', 'branches')}.`}
    </span>
  );
}
