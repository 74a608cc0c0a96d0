import { useMutation } from '@tanstack/react-query';
import { edgeRoutes, runnerRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { settled } from './machines-of.ts';

const says = {
  runner:
    'Its token opens nothing any more. Where it builds, that is said, and nothing is taken back.',
  edge: 'Its token opens nothing any more, and moves wait for it no more. Where it serves, that is said, and nothing is taken back.',
} as const;

/** Takes the token of a runner or an edge back. */
export function DropMachine({
  what,
  name,
}: {
  readonly what: 'runner' | 'edge';
  readonly name: string;
}) {
  const [open, setOpen] = useState(false);
  const drop = useMutation({
    mutationFn: () =>
      what === 'runner'
        ? api.call(runnerRoutes.dropRunnerRoute, { params: { runner: name } })
        : api.call(edgeRoutes.dropEdgeRoute, { params: { edge: name } }),
    onSuccess: () => setOpen(false),
    onSettled: settled,
  });
  return (
    <>
      <Button aria-label={`Take back… the token of ${name}`} onClick={() => setOpen(true)}>
        Take back…
      </Button>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`Take the token of ${name} back?`}
        says={says[what]}
        acts={
          <Button tone="action" disabled={drop.isPending} onClick={() => drop.mutate()}>
            Take it back
          </Button>
        }
      >
        {drop.isError ? <Failed error={drop.error} /> : null}
      </Sheet>
    </>
  );
}
