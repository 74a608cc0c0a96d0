import { environmentRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMayAct } from '../people/use-may.ts';
import { useMove } from './use-move.ts';
import { WhatChanges } from './what-changes.tsx';

/** The word that an offered build waits for: the act, shut where one may not, and what it would change. */
export function LetIn({ lane, project }: { readonly lane: Lane; readonly project: string }) {
  const [open, setOpen] = useState(false);
  const { may, who } = useMayAct(project, lane, 'promote');
  const { waits } = lane;
  const letIn = useMove(
    project,
    () =>
      api.call(environmentRoutes.letInRoute, {
        params: { project, environment: lane.name },
        body: {
          build: waits.kind === 'offer' ? waits.build : 0,
          seen: { generation: lane.generation, artifact: lane.serves?.artifact ?? null },
        },
      }),
    () => setOpen(false),
  );
  if (waits.kind !== 'offer') return null;
  const isHeld = lane.hold !== null;
  return (
    <>
      <Button
        tone="action"
        disabled={!may || isHeld}
        title={may ? undefined : `This takes ${who}.`}
        data-act="let-in"
        onClick={() => setOpen(true)}
      >
        Let in…
      </Button>
      <Sheet
        open={open}
        onOpenChange={setOpen}
        title={`Let build ${waits.build} in to ${lane.name}?`}
        says={
          waits.newer === null
            ? 'It passed. What was noticed before it will not come in any more.'
            : `It passed. Build ${waits.newer} is on its way, and will be offered after it.`
        }
        acts={
          <Button tone="action" disabled={letIn.isPending} onClick={() => letIn.mutate()}>
            {letIn.isPending ? 'Letting in' : `Let ${waits.build} in`}
          </Button>
        }
      >
        <WhatChanges project={project} comes={waits} replaces={lane.serves} />
        {letIn.isError ? <Failed error={letIn.error} /> : null}
      </Sheet>
    </>
  );
}
