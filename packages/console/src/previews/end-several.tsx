import { mapRoutes, type PreviewSeen } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useState } from 'react';
import { api } from '../http/api.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';

import { useMove } from '../releases/use-move.ts';

/** Ending the previews that are chosen, at once. */
export function EndSeveral({
  project,
  chosen,
  done,
}: {
  readonly project: string;
  readonly chosen: readonly PreviewSeen[];
  readonly done: () => void;
}) {
  const [open, setOpen] = useState(false);
  const end = useMove(
    project,
    async () => {
      for (const { name } of chosen)
        await api.call(mapRoutes.endEnvironmentRoute, { params: { project, environment: name } });
    },
    () => {
      setOpen(false);
      done();
    },
  );
  const said = counted(chosen.length, 'preview');
  return (
    <>
      <Button disabled={chosen.length === 0} onClick={() => setOpen(true)}>
        End the chosen…
      </Button>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`End ${said}?`}
        says="Their addresses answer no more; their history and artifacts stay. A new commit brings one back."
        acts={
          <Button tone="warn" disabled={end.isPending} onClick={() => end.mutate()}>
            {end.isPending ? 'Ending' : `End ${said}`}
          </Button>
        }
      >
        <ul>
          {chosen.map(({ name, family }) => (
            <li key={name}>
              {name}
              {family.owner === null ? '' : `, ${family.owner.shownAs}’s`}
              {family.kept === null ? '' : `, kept by ${family.kept.by}`}
            </li>
          ))}
        </ul>
        {end.isError ? <Failed error={end.error} /> : null}
      </Sheet>
    </>
  );
}
