import { useMutation } from '@tanstack/react-query';
import { edgeRoutes, runnerRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextField } from '../parts/field.tsx';
import { ShownOnce } from '../parts/shown-once.tsx';
import { settled } from './machines-of.ts';

const routes = { runner: runnerRoutes.addRunnerRoute, edge: edgeRoutes.addEdgeRoute } as const;

/** Makes another runner or edge known: its token is shown this once. */
export function AddMachine({ what }: { readonly what: 'runner' | 'edge' }) {
  const [name, setName] = useState('');
  const add = useMutation({
    mutationFn: () => api.call(routes[what], { body: { name: name.trim() } }),
    onSuccess: () => setName(''),
    onSettled: settled,
  });
  return (
    <>
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <TextField
          label={`Another ${what}, by name`}
          required
          maxLength={40}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Button type="submit" disabled={name.trim() === '' || add.isPending}>
          Make it known
        </Button>
      </form>
      {add.isSuccess ? (
        <ShownOnce secret={add.data.token}>
          {add.data.name} comes in by this (<code>VAQUERO_{what.toUpperCase()}_TOKEN</code>), which
          is shown this once:
        </ShownOnce>
      ) : null}
      {add.isError ? <Failed error={add.error} /> : null}
    </>
  );
}
