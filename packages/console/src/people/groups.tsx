import { useMutation, useQuery } from '@tanstack/react-query';
import { type GroupSeen, groupRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Sheet } from '../parts/sheet.tsx';

import { everyGroup } from './everybody.ts';
import { NewMember } from './new-member.tsx';

const settled = () =>
  Promise.all([
    queries.invalidateQueries({ queryKey: ['people'] }),
    queries.invalidateQueries({ queryKey: ['groups'] }),
  ]);

/** Groups of people: made, filled, emptied, ended. */
export function Groups() {
  const { data, error } = useQuery(everyGroup);
  return (
    <section aria-label="Groups" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1">
        <b className="font-[650]">Groups</b>{' '}
        <span className="text-ink-2">
          granted in a project like a person, and named so in its map
        </span>
      </h2>
      {error === null ? null : <Failed error={error} />}
      {data === undefined ? null : (
        <>
          {data.groups.length === 0 ? (
            <p className="border-t border-rule py-2">No group yet.</p>
          ) : (
            data.groups.map((group) => <OneGroup key={group.name} group={group} />)
          )}
          <NewMember
            what="group"
            make={(group, shownAs) =>
              api.call(groupRoutes.makeGroupRoute, { params: { group }, body: { shownAs } })
            }
            settled={settled}
          />
        </>
      )}
    </section>
  );
}

function OneGroup({ group }: { readonly group: GroupSeen }) {
  const [name, setName] = useState('');
  const params = { group: group.name };
  const join = useMutation({
    mutationFn: () =>
      api.call(groupRoutes.joinGroupRoute, { params: { ...params, person: name.trim() } }),
    onSuccess: () => setName(''),
    onSettled: settled,
  });
  const leave = useMutation({
    mutationFn: (person: string) =>
      api.call(groupRoutes.leaveGroupRoute, { params: { ...params, person } }),
    onSettled: settled,
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    join.mutate();
  };
  const granted = group.grants.map(
    ({ project, role }) => `${role} ${project === null ? 'everywhere' : `of ${project}`}`,
  );
  return (
    <section aria-label={group.shownAs} className="border-t border-rule py-2">
      <h3 className="flex flex-wrap items-baseline gap-2">
        <b className="font-[650]">{group.shownAs}</b> <code>{group.name}</code>{' '}
        <span className="text-ink-2">{granted.join(', ') || 'granted nothing yet'}</span>
        <EndGroup group={group} />
      </h3>
      <ul aria-label={`In ${group.shownAs}`} className="flex flex-wrap gap-x-4 gap-y-1 py-1">
        {group.people.length === 0 ? <li className="text-ink-2">Nobody is in it.</li> : null}
        {group.people.map((one) => (
          <li key={one.name} className="flex items-center gap-2">
            {one.shownAs}
            <Button
              aria-label={`Take ${one.shownAs} out of ${group.shownAs}`}
              disabled={leave.isPending}
              onClick={() => leave.mutate(one.name)}
            >
              Take out
            </Button>
          </li>
        ))}
      </ul>
      <form onSubmit={send} className="flex flex-wrap items-end gap-3">
        <TextField
          label={`Put into ${group.shownAs}, by name`}
          required
          maxLength={100}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Button type="submit" disabled={name.trim() === '' || join.isPending}>
          Put in
        </Button>
      </form>
      {join.isError ? <Failed error={join.error} /> : null}
      {leave.isError ? <Failed error={leave.error} /> : null}
    </section>
  );
}

function EndGroup({ group }: { readonly group: GroupSeen }) {
  const [open, setOpen] = useState(false);
  const end = useMutation({
    mutationFn: () => api.call(groupRoutes.endGroupRoute, { params: { group: group.name } }),
    onSuccess: () => setOpen(false),
    onSettled: settled,
  });
  return (
    <>
      <Button
        className="ml-auto"
        aria-label={`End ${group.shownAs}…`}
        onClick={() => setOpen(true)}
      >
        End…
      </Button>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`End ${group.shownAs}?`}
        says={`What it was granted ends for ${counted(group.people.length, 'person', 'people')}. A map that names ${group.name} names nobody by it then, and nobody else gets the name.`}
        acts={
          <Button tone="action" disabled={end.isPending} onClick={() => end.mutate()}>
            End {group.shownAs}
          </Button>
        }
      >
        {end.isError ? <Failed error={end.error} /> : null}
      </Sheet>
    </>
  );
}
