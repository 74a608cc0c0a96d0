import { useMutation, useQuery } from '@tanstack/react-query';
import { passwordLinkRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { api, queries } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { Reading } from '../parts/reading.tsx';
import { clock, day } from '../parts/words.ts';

/** Where a link of an operator's leads: another password, then the projects. */
export function PasswordPage() {
  const { hash } = useLocation();
  const navigate = useNavigate();
  const key = hash.replace(/^#/, '');
  const [password, setPassword] = useState('');
  const { data, error } = useQuery({
    queryKey: ['password-link', key],
    queryFn: ({ signal }) =>
      api.call(passwordLinkRoutes.showPasswordLinkRoute, { body: { key }, signal }),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const set = useMutation({
    mutationFn: () =>
      api.call(passwordLinkRoutes.usePasswordLinkRoute, { body: { key, password } }),
    onSuccess: async () => {
      queries.clear();
      // Whoever is asked for a second factor signs in with it.
      await navigate('/', { replace: true });
    },
  });
  return (
    <main className="mx-auto mt-[10vh] w-[min(26rem,calc(100vw-2rem))]">
      {data === undefined ? (
        <>
          <AnswerLine>Another password</AnswerLine>
          {error === null ? <Reading what="the link" /> : <Failed error={error} />}
        </>
      ) : (
        <>
          <AnswerLine
            below={`The link works once, until ${day(data.expiresAt)} ${clock(data.expiresAt)} UTC. Every browser in which you are signed in is signed out with it.`}
          >
            Another password for {data.shownAs}
          </AnswerLine>
          <form
            className="flex flex-col gap-3 border-t border-rule-2 pt-3"
            onSubmit={(event) => {
              event.preventDefault();
              set.mutate();
            }}
          >
            <TextField
              label="A password of at least 12 letters: a few words will do"
              type="password"
              autoComplete="new-password"
              required
              value={password}
              onChange={(event) => setPassword(event.target.value)}
            />
            {set.isError ? <Failed error={set.error} /> : null}
            <Button type="submit" tone="action" disabled={set.isPending}>
              Set it and sign in
            </Button>
          </form>
        </>
      )}
    </main>
  );
}
