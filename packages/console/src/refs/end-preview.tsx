import { mapRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { ActLink } from '../parts/act-link.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMayAct } from '../people/use-may.ts';
import { useMove } from '../releases/use-move.ts';

/** Ending one environment of a family, at once. */
export function EndPreview({
  project,
  lane,
}: {
  readonly project: string;
  readonly lane: Pick<Lane, 'name' | 'may'>;
}) {
  const [open, setOpen] = useState(false);
  const { may, who } = useMayAct(project, lane, 'end');
  const end = useMove(
    project,
    () => api.call(mapRoutes.endEnvironmentRoute, { params: { project, environment: lane.name } }),
    () => setOpen(false),
  );
  return (
    <>
      <ActLink act="end" may={may} who={who} onClick={() => setOpen(true)}>
        End…<span className="sr-only"> {lane.name}</span>
      </ActLink>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`End ${lane.name}?`}
        says="Its address answers no more; its history and artifacts stay. A new commit brings it back."
        acts={
          <Button tone="warn" disabled={end.isPending} onClick={() => end.mutate()}>
            {end.isPending ? 'Ending' : `End ${lane.name}`}
          </Button>
        }
      >
        {end.isError ? <Failed error={end.error} /> : null}
      </Sheet>
    </>
  );
}
