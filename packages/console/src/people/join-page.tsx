import { useMutation, useQuery } from '@tanstack/react-query';
import { memberRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import { api, queries } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Reading } from '../parts/reading.tsx';
import { day } from '../parts/words.ts';

/** Where an invitation leads: a name and a password, then the project. */
export function JoinPage() {
  const { hash } = useLocation();
  const key = hash.replace(/^#/, '');
  const { data, error } = useQuery({
    queryKey: ['invitation', key],
    queryFn: ({ signal }) => api.call(memberRoutes.showInvitationRoute, { body: { key }, signal }),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <main className="mx-auto mt-[10vh] w-[min(26rem,calc(100vw-2rem))]">
      {data === undefined ? (
        <>
          <AnswerLine>An invitation to Vaquero</AnswerLine>
          {error === null ? <Reading what="the invitation" /> : <Failed error={error} />}
        </>
      ) : (
        <>
          <AnswerLine below={`It works once, until ${day(data.expiresAt)}.`}>
            {data.by} invites you to {data.project ?? 'this installation'} as {data.role}
          </AnswerLine>
          <Newcomer invitation={key} project={data.project} />
        </>
      )}
    </main>
  );
}

function Newcomer({
  invitation,
  project,
}: {
  readonly invitation: string;
  readonly project: string | null;
}) {
  const navigate = useNavigate();
  const [sought] = useSearchParams();
  const [name, setName] = useState(sought.get('name') ?? '');
  const [shownAs, setShownAs] = useState('');
  const [password, setPassword] = useState('');
  const join = useMutation({
    mutationFn: () =>
      api.call(memberRoutes.joinRoute, { body: { key: invitation, name, shownAs, password } }),
    onSuccess: async () => {
      queries.clear();
      await navigate(project === null ? '/' : `/p/${project}`, { replace: true });
    },
  });
  return (
    <form
      className="flex flex-col gap-3 border-t border-rule-2 pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        join.mutate();
      }}
    >
      <TextField
        label="Your name, as people read it"
        autoComplete="name"
        required
        maxLength={100}
        value={shownAs}
        onChange={(event) => setShownAs(event.target.value)}
      />
      <TextField
        label="A short one to sign in with: a–z, 0–9, hyphens"
        autoComplete="username"
        required
        maxLength={40}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        label="A password of at least 12 letters: a few words will do"
        type="password"
        autoComplete="new-password"
        required
        value={password}
        onChange={(event) => setPassword(event.target.value)}
      />
      {join.isError ? <Failed error={join.error} /> : null}
      <Button type="submit" tone="action" disabled={join.isPending}>
        {join.isPending ? 'Joining' : 'Join'}
      </Button>
    </form>
  );
}
