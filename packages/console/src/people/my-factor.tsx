import { useMutation } from '@tanstack/react-query';
import { type Me, secondFactorRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { day } from '../parts/words.ts';
import { CodeField } from './code-field.tsx';
import { mine } from './mine.ts';
import { SetUpFactor } from './set-up-factor.tsx';

/** One's second factor: whether there is one, another one, its end. */
export function MyFactor({ me }: { readonly me: Me }) {
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const reread = async (): Promise<void> => {
    setPassword('');
    setCode('');
    await queries.invalidateQueries(mine);
  };
  const end = useMutation({
    mutationFn: () =>
      api.call(secondFactorRoutes.endFactorRoute, { body: { name: me.name, password, code } }),
    onSuccess: reread,
  });
  const { factor } = me;
  return (
    <section aria-label="Second factor" className="flex max-w-sm flex-col gap-3">
      <h2 className="font-[650]">Second factor</h2>
      <p className="text-ink-2">
        {factor === null
          ? 'None: name and password alone sign you in.'
          : `Asked for since ${day(factor.since)}; ${counted(factor.wordsLeft, 'recovery word')} left.`}
      </p>
      <TextField
        label="Your password"
        type="password"
        autoComplete="current-password"
        value={password}
        onChange={(event) => setPassword(event.target.value)}
      />
      {factor === null ? null : <CodeField value={code} onChange={setCode} />}
      {password === '' || (factor !== null && code === '') ? null : (
        <SetUpFactor
          name={me.name}
          password={password}
          code={factor === null ? undefined : code}
          done={() => void reread()}
        />
      )}
      {factor === null ? null : (
        <Button
          data-act="end-factor"
          disabled={password === '' || code === '' || end.isPending}
          onClick={() => end.mutate()}
        >
          End it
        </Button>
      )}
      {end.isError ? <Failed error={end.error} /> : null}
    </section>
  );
}
