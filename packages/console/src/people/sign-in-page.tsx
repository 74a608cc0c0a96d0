import { useMutation } from '@tanstack/react-query';
import { peopleRoutes } from '@vaquero/contracts';
import { returnPath } from '@vaquero/core';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { api, queries, troubleOf } from '../http/api.ts';
import { AnswerLine } from '../parts/answer.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { CodeField } from './code-field.tsx';
import { SetUpFactor } from './set-up-factor.tsx';
import { SignInElsewhere } from './sign-in-elsewhere.tsx';

/** Signing in with name and password. */
export function SignInPage() {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const signIn = useMutation({
    mutationFn: () =>
      api.call(peopleRoutes.signInRoute, {
        body: { name, password, ...(code === '' ? {} : { code }) },
      }),
    onSuccess: async () => {
      queries.clear();
      await navigate(returnPath(search.get('then')));
    },
  });
  const refusal = signIn.isError ? troubleOf(signIn.error).code : null;
  const isAsked = refusal === 'code-needed' || code !== '' || refusal === 'wrong-code';
  if (refusal === 'factor-demanded')
    return (
      <main className="mx-auto mt-[10vh] w-[min(26rem,calc(100vw-2rem))]">
        <AnswerLine below="Your role takes one here: a program for codes on your telephone, say.">
          Sign in with a second factor
        </AnswerLine>
        <SetUpFactor name={name} password={password} done={() => signIn.reset()} />
      </main>
    );
  return (
    <main className="mx-auto mt-[14vh] w-[min(22rem,calc(100vw-2rem))]">
      <AnswerLine below="What is live, what waits, and the way back stand behind it.">
        Sign in to Vaquero
      </AnswerLine>
      <form
        className="flex flex-col gap-3 border-t border-rule-2 pt-3"
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate();
        }}
      >
        <TextField
          label="Name"
          autoComplete="username"
          required
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        {isAsked ? <CodeField value={code} onChange={setCode} /> : null}
        {signIn.isError ? <Failed error={signIn.error} /> : null}
        <Button type="submit" tone="action" disabled={signIn.isPending}>
          {signIn.isPending ? 'Signing in' : 'Sign in'}
        </Button>
      </form>
      <SignInElsewhere then={returnPath(search.get('then'))} />
    </main>
  );
}
