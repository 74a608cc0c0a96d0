import { useMutation } from '@tanstack/react-query';
import { secondFactorRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api, queries } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { everybody } from './everybody.ts';

/** The end of somebody's second factor, for who lost it. */
export function EndFactor({ name, shownAs }: { readonly name: string; readonly shownAs: string }) {
  const [open, setOpen] = useState(false);
  const end = useMutation({
    mutationFn: () => api.call(secondFactorRoutes.endFactorOfRoute, { params: { person: name } }),
    onSuccess: () => setOpen(false),
    onSettled: () => queries.invalidateQueries(everybody),
  });
  return (
    <>
      <Button aria-label={`End it… the second factor of ${shownAs}`} onClick={() => setOpen(true)}>
        End it…
      </Button>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`End the second factor of ${shownAs}?`}
        says="From then on name and password alone sign them in, unless one is demanded of their role: then they set up another one."
        acts={
          <Button tone="action" disabled={end.isPending} onClick={() => end.mutate()}>
            End it
          </Button>
        }
      >
        {end.isError ? <Failed error={end.error} /> : null}
      </Sheet>
    </>
  );
}
