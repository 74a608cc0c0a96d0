import { useMutation, useQuery } from '@tanstack/react-query';
import { type ProjectTrial, projectRoutes } from '@vaquero/contracts';
import { counted, readSshAddress } from '@vaquero/core';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField, Tick } from '../parts/field.tsx';
import { Glyph } from '../parts/glyph.tsx';

import { CredentialFields } from './credential-fields.tsx';
import { KeyFields, type KeyTaken } from './key-fields.tsx';
import { projectsSeen } from './projects-seen.ts';

/** A repository as somebody fills it in. */
export interface Source {
  readonly kind: 'hosted' | 'http' | 'path' | 'shared';
  readonly place: string;
  readonly isPrivate: boolean;
  readonly user: string;
  readonly secret: string;
  /** Over SSH: what reads it. */
  readonly sshKey: KeyTaken | null;
}

type Sent = NonNullable<(typeof projectRoutes.tryProjectRoute.body)['_zod']['input']['repository']>;

/** Where a repository may lie. */
export const kinds = [
  ['hosted', 'hosted here: you push to it'],
  ['http', 'at an address elsewhere, over https or SSH'],
  ['path', 'a folder that the operator opened'],
  ['shared', 'that of another project'],
] as const;
const labels = { hosted: '', http: 'Its address', path: 'The folder', shared: '' } as const;

/** A repository as the service takes it. */
export function sourceIn({ kind, place, isPrivate, user, secret, sshKey }: Source): Sent {
  if (kind === 'hosted') return { kind };
  if (kind === 'path') return { kind, path: place };
  if (kind === 'shared') return { kind, project: place };
  if (isOverSsh(place))
    return { kind: 'ssh', url: place, key: sshKey?.key ?? '', hostKey: sshKey?.hostKey ?? '' };
  return { kind, url: place, ...(isPrivate ? { credential: { user, secret } } : {}) };
}

const isOverSsh = (place: string): boolean => readSshAddress(place) !== undefined;

/** Whether it is said where a repository lies, and with what it is read. */
export function isNamed({ kind, place, isPrivate, secret, sshKey }: Source): boolean {
  if (kind === 'hosted') return true;
  if (kind === 'http' && isOverSsh(place)) return sshKey !== null && sshKey.hostKey !== null;
  return place !== '' && (kind !== 'http' || !isPrivate || secret !== '');
}

/** What was found at a repository. */
export type FoundThere = NonNullable<ProjectTrial['repository']>;

/** Which repository: what is at it is read before one chooses its branch. */
export function SourceFields({
  source,
  offered = kinds,
  change,
  read,
}: {
  readonly source: Source;
  readonly offered?: readonly (typeof kinds)[number][];
  readonly change: (source: Source) => void;
  readonly read: (found: FoundThere) => void;
}) {
  const { data: projects = [] } = useQuery(projectsSeen);
  const look = useMutation({
    mutationFn: () =>
      api.call(projectRoutes.tryProjectRoute, { body: { name: '', repository: sourceIn(source) } }),
    onSuccess: ({ repository }) => {
      if (repository !== null) read(repository);
    },
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
        choices={offered.filter(([kind]) => kind !== 'shared' || others.length > 0)}
        onChange={(event) => {
          const kind = kinds.find(([one]) => one === event.currentTarget.value)?.[0] ?? source.kind;
          set({ kind, place: kind === 'shared' ? (others[0]?.[0] ?? '') : '' });
        }}
      />
      {source.kind === 'http' || source.kind === 'path' ? (
        <TextField
          label={labels[source.kind]}
          className="w-full font-mono"
          required
          placeholder={source.kind === 'http' ? 'https://… or git@host:path' : '/'}
          value={source.place}
          onChange={(event) => set({ place: event.currentTarget.value, sshKey: null })}
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
      {source.kind !== 'http' ? null : isOverSsh(source.place) ? (
        <KeyFields
          key={source.place}
          wanted={{ url: source.place }}
          taken={source.sshKey}
          onTaken={(sshKey) => set({ sshKey })}
        />
      ) : (
        <PrivateFields source={source} set={set} />
      )}
      {source.kind === 'hosted' ? null : (
        <div className="flex flex-wrap items-baseline gap-3">
          <Button disabled={!isNamed(source) || look.isPending} onClick={() => look.mutate()}>
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

function Found({ repository: { branches } }: { readonly repository: FoundThere }) {
  return (
    <span role="status">
      <Glyph name="passed" />{' '}
      {branches.length === 0
        ? 'It can be read, and has no branch yet.'
        : `It can be read: ${counted(branches.length, 'branch', 'branches')}.`}
    </span>
  );
}
