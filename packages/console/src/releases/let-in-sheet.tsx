import { environmentRoutes } from '@vaquero/contracts';
import { useState } from 'react';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMayAct } from '../people/use-may.ts';
import { useMove } from './use-move.ts';
import { WhatItLetsIn } from './what-it-lets-in.tsx';

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
        <dl className="grid grid-cols-[5rem_1fr] gap-y-1">
          <dt className="text-ink-2">comes</dt>
          <dd>
            <BrandMark digest={waits.artifact} size={18} className="align-[-3px]" />{' '}
            <b className="font-[650]">{waits.build}</b> <code>{waits.artifact.slice(0, 12)}</code>{' '}
            <span className="said">{waits.subject}</span>
          </dd>
          <dt className="text-ink-2">replaces</dt>
          <dd>
            {lane.serves === null ? (
              'nothing: this is the first'
            ) : (
              <>
                <BrandMark digest={lane.serves.artifact} size={18} className="align-[-3px]" />{' '}
                <b className="font-[650]">{lane.serves.build}</b>{' '}
                <code>{lane.serves.artifact.slice(0, 12)}</code>{' '}
                <span className="said">{lane.serves.subject}</span>
              </>
            )}
          </dd>
          <dt className="text-ink-2">lets in</dt>
          <dd>
            <WhatItLetsIn project={project} build={waits.build} />
          </dd>
        </dl>
        {letIn.isError ? <Failed error={letIn.error} /> : null}
      </Sheet>
    </>
  );
}
