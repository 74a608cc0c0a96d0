import { type DeploySeen, environmentRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { useState } from 'react';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { TextArea } from '../parts/field.tsx';
import { Sheet } from '../parts/sheet.tsx';

import { useMove } from './use-move.ts';

interface RollBackSheetProps {
  readonly lane: Lane;
  readonly project: string;
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  /** Which deploy comes back; the latest that is fit for it, if none is said. */
  readonly to?: DeploySeen;
}

/** What a roll back would bring back and undo, and the act. It takes a reason. */
export function RollBackSheet({ lane, project, open, onOpenChange, to }: RollBackSheetProps) {
  const [reason, setReason] = useState('');
  const back =
    to === undefined
      ? lane.wayBack
      : {
          ...to,
          deploy: to.number,
          undoes: { first: to.number + 1, last: lane.serves?.number ?? 0 },
        };
  const roll = useMove(
    project,
    () =>
      api.call(environmentRoutes.rollBackRoute, {
        params: { project, environment: lane.name },
        body: {
          reason,
          seen: { generation: lane.generation, artifact: lane.serves?.artifact ?? null },
          ...(back === null ? {} : { to: { deploy: back.deploy } }),
        },
      }),
    () => {
      setReason('');
      onOpenChange(false);
    },
  );
  if (back === null || lane.serves === null) return null;
  const undone = back.undoes.last - back.undoes.first + 1;
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={`Roll ${lane.name} back to build ${back.build}?`}
      says={`It undoes ${counted(undone, 'deploy')} and holds ${lane.name}: nothing else goes live there until somebody lifts the hold.`}
      acts={
        <Button
          tone="action"
          disabled={roll.isPending || reason.trim() === ''}
          onClick={() => roll.mutate()}
        >
          {roll.isPending ? 'Rolling back' : `Roll back to ${back.build}`}
        </Button>
      }
    >
      <dl className="grid grid-cols-[5rem_1fr] gap-y-1">
        <dt className="text-ink-2">comes back</dt>
        <dd>
          <BrandMark digest={back.artifact} size={18} className="align-[-3px]" />{' '}
          <b className="font-[650]">{back.build}</b> <code>{back.artifact.slice(0, 12)}</code>{' '}
          <span className="said">{back.subject}</span>
        </dd>
        <dt className="text-ink-2">is undone</dt>
        <dd>
          <BrandMark digest={lane.serves.artifact} size={18} className="align-[-3px]" />{' '}
          <b className="font-[650]">{lane.serves.build}</b>{' '}
          <code>{lane.serves.artifact.slice(0, 12)}</code>{' '}
          <span className="said">{lane.serves.subject}</span>
        </dd>
      </dl>
      <div className="mt-3">
        <TextArea
          label="Why? It stands in the history and on the hold."
          className="said"
          rows={2}
          maxLength={500}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
      </div>
      {roll.isError ? <Failed error={roll.error} /> : null}
    </Sheet>
  );
}
