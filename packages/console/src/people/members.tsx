import { useMutation, useQuery } from '@tanstack/react-query';
import { type MembersReply, memberRoutes } from '@vaquero/contracts';
import { counted, type ProjectRole, projectRoles } from '@vaquero/core';
import { useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Picker, TextField } from '../parts/field.tsx';
import { ShownOnce } from '../parts/shown-once.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { moment } from '../parts/words.ts';
import { membersOf } from './members-of.ts';
import { RoleChoice } from './role-choice.tsx';
import { useMay } from './use-may.ts';

/** Who may do what in a project: changed, ended, invited. Shown to those who may change it. */
export function Members({ project }: { readonly project: string }) {
  const { may, why } = useMay(project, 'maintain');
  const { data, error, dataUpdatedAt } = useQuery({ ...membersOf(project), enabled: may });
  return (
    <section aria-label="People" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">People</b>{' '}
        <span className="text-ink-2">
          {may ? 'who may do what here; nobody gives more than they have' : why}
        </span>
      </h2>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <>
          <MemberTable project={project} members={data.members} now={dataUpdatedAt} />
          <Invitations project={project} invitations={data.invitations} now={dataUpdatedAt} />
        </>
      )}
    </section>
  );
}

type Member = MembersReply['members'][number];

function MemberTable({
  project,
  members,
  now,
}: {
  readonly project: string;
  readonly members: readonly Member[];
  readonly now: number;
}) {
  const change = useMutation({
    mutationFn: ({ person, role }: { person: string; role: ProjectRole | null }) =>
      role === null
        ? api.call(memberRoutes.endGrantRoute, { params: { project, person } })
        : api.call(memberRoutes.grantRoute, { params: { project, person }, body: { role } }),
    onSuccess: (reply) => queries.setQueryData(membersOf(project).queryKey, reply),
  });
  return (
    <>
      <Table
        caption="Members of the project"
        columns={columnsFor(now, change.mutate)}
        rows={members}
        keyOf={({ name }) => name}
        empty="Nobody but operators of the installation."
        rowClass="max-sm:grid max-sm:py-2"
      />
      {change.isError ? <Failed error={change.error} /> : null}
      <GiveRole change={change.mutate} isPending={change.isPending} />
    </>
  );
}

/** A role for somebody who is here already, or for a group. */
function GiveRole({
  change,
  isPending,
}: {
  readonly change: (wish: { person: string; role: ProjectRole | null }) => void;
  readonly isPending: boolean;
}) {
  const [person, setPerson] = useState('');
  const [role, setRole] = useState<ProjectRole>('reader');
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        change({ person: person.trim(), role });
      }}
    >
      <TextField
        label="A person or group, by name"
        required
        maxLength={100}
        value={person}
        onChange={({ currentTarget }) => setPerson(currentTarget.value)}
      />
      <RoleChoice label="As" value={role} onChange={setRole} />
      <Button type="submit" disabled={person.trim() === '' || isPending}>
        Give the role
      </Button>
    </form>
  );
}

function columnsFor(
  now: number,
  change: (wish: { person: string; role: ProjectRole | null }) => void,
): readonly Column<Member>[] {
  return [
    {
      head: 'who',
      isName: true,
      cell: ({ shownAs, kind, people }) => (
        <>
          {shownAs}
          {kind === 'group' ? (
            <span className="block font-normal text-ink-2">{people.join(', ') || 'nobody'}</span>
          ) : null}
        </>
      ),
    },
    {
      head: 'name',
      className: 'font-mono text-[0.86em]',
      cell: ({ name, kind }) => (kind === 'person' ? name : `${name}, a ${kind}`),
    },
    {
      head: 'role',
      cell: ({ name, shownAs, role, group, everywhere }) =>
        everywhere || group !== null ? (
          `${role}, ${everywhere ? 'in the whole installation' : `by ${group}`}`
        ) : (
          <Picker
            label={`Role of ${shownAs}`}
            choices={projectRoles}
            value={role}
            onPick={(wanted) => change({ person: name, role: wanted })}
          />
        ),
    },
    {
      head: 'last seen',
      className: 'text-ink-2',
      cell: ({ lastSeenAt }) => (lastSeenAt === null ? 'not yet' : moment(lastSeenAt, now)),
    },
    {
      head: 'end',
      cell: ({ name, shownAs, group, everywhere }) =>
        everywhere || group !== null ? null : (
          <Button
            aria-label={`End the role of ${shownAs}`}
            onClick={() => change({ person: name, role: null })}
          >
            End
          </Button>
        ),
    },
  ];
}

function Invitations({
  project,
  invitations,
  now,
}: {
  readonly project: string;
  readonly invitations: MembersReply['invitations'];
  readonly now: number;
}) {
  const [role, setRole] = useState<ProjectRole>('reader');
  const again = () => queries.invalidateQueries(membersOf(project));
  const invite = useMutation({
    mutationFn: () => api.call(memberRoutes.inviteRoute, { params: { project }, body: { role } }),
    onSettled: again,
  });
  const end = useMutation({
    mutationFn: (invitation: string) =>
      api.call(memberRoutes.endInvitationRoute, { params: { project, invitation } }),
    onSettled: again,
  });
  return (
    <>
      <form
        className="mt-3 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          invite.mutate();
        }}
      >
        <RoleChoice label="Invite somebody as" value={role} onChange={setRole} />
        <Button type="submit" disabled={invite.isPending}>
          Make a link
        </Button>
      </form>
      {invite.data === undefined ? null : (
        <ShownOnce secret={invite.data.address}>
          Send this to them; it works once, for seven days, and is shown this once:
        </ShownOnce>
      )}
      {invite.isError ? <Failed error={invite.error} /> : null}
      {end.isError ? <Failed error={end.error} /> : null}
      {invitations.length === 0 ? null : (
        <ul aria-label={counted(invitations.length, 'invitation')} className="mt-2">
          {invitations.map(({ id, role: as, by, expiresAt }) => (
            <li key={id} className="flex flex-wrap items-center gap-2 border-t border-rule py-1">
              An invitation as {as}, by {by}, waits until {moment(expiresAt, now)}
              <Button disabled={end.isPending} onClick={() => end.mutate(id)}>
                Take back
              </Button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
