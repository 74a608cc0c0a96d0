import { useMutation } from '@tanstack/react-query';
import { type VariablesReply, variableRoutes } from '@vaquero/contracts';
import { type FormEvent, useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Choice, TextField, Tick } from '../parts/field.tsx';
import { placeInWords } from './variables-of.ts';

/** Sets a variable or a secret. Shut, with the reason, for whom it is not. */
export function SetVariable({
  project,
  unset,
  places,
}: {
  readonly project: string;
} & Pick<VariablesReply, 'unset' | 'places'>) {
  const [name, setName] = useState(unset[0] ?? '');
  const [value, setValue] = useState('');
  const mine = places.filter(({ may }) => may);
  const may = mine.length > 0;
  const [environment, setEnvironment] = useState(mine[0]?.environment ?? '');
  const [isSecret, setSecret] = useState(true);
  const set = useMutation({
    mutationFn: () =>
      api.call(variableRoutes.setVariableRoute, {
        params: { project, variable: name },
        query: { environment },
        body: { value, kind: isSecret ? 'secret' : 'plain' },
      }),
    onSuccess: async () => {
      setName('');
      setValue('');
      await queries.invalidateQueries({ queryKey: [project, 'variables'] });
    },
  });
  const send = (event: FormEvent): void => {
    event.preventDefault();
    set.mutate();
  };
  const isNameFit = name === '' || /^[A-Z][A-Z0-9_]*$/.test(name);
  return (
    <form onSubmit={send} className="mt-4" aria-label="Set a variable">
      <fieldset disabled={!may} className="flex flex-wrap items-end gap-3">
        <TextField
          label="Name"
          className="font-mono"
          required
          fault={isNameFit ? undefined : 'A letter first, then A–Z, 0–9 and _'}
          value={name}
          onChange={(event) => setName(event.currentTarget.value.toUpperCase())}
        />
        <TextField
          label="Value"
          className="w-64 max-w-full font-mono"
          required
          type={isSecret ? 'password' : 'text'}
          autoComplete="off"
          value={value}
          onChange={(event) => setValue(event.currentTarget.value)}
        />
        <Choice
          label="For"
          value={environment}
          choices={(may ? mine : places).map(
            (one) => [one.environment, placeInWords(one)] as const,
          )}
          onChange={(event) => setEnvironment(event.currentTarget.value)}
        />
        <Tick
          label="Secret"
          checked={isSecret}
          onChange={(event) => setSecret(event.currentTarget.checked)}
        />
        <Button tone="action" type="submit" disabled={set.isPending || !isNameFit}>
          Set it
        </Button>
      </fieldset>
      {mine.length === places.length ? null : <p className="mt-1 text-ink-2">{whoElse(places)}</p>}
      {set.isError ? <Failed error={set.error} /> : null}
    </form>
  );
}

/** Whose it is to set values where the reader may not. */
function whoElse(places: VariablesReply['places']): string {
  const others = places.filter(({ may }) => !may);
  return `${others.map((one) => `For ${placeInWords(one)}: ${one.who}`).join('. ')}.`;
}
