import { environmentRoutes } from '@vaquero/contracts';
import { counted } from '@vaquero/core';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';

import { useMove } from './use-move.ts';
import { WhatChanges } from './what-changes.tsx';

interface PromoteSheetProps {
  readonly lane: Lane;
  readonly lanes: readonly Lane[];
  readonly project: string;
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
}

/** What a promotion would change, and the act. It names what is seen here, so a change meanwhile refuses it. */
export function PromoteSheet({ lane, lanes, project, open, onOpenChange }: PromoteSheetProps) {
  const source = lanes.find((each) => each.name === lane.acceptsFrom);
  const moving = source?.serves ?? null;
  const promote = useMove(
    project,
    async () => {
      if (moving === null || source === undefined)
        throw new Error(`${lane.acceptsFrom ?? 'The source'} serves nothing`);
      return api.call(environmentRoutes.promoteRoute, {
        params: { project, environment: lane.name },
        body: {
          from: source.name,
          artifact: moving.artifact,
          seen: { generation: lane.generation, artifact: lane.serves?.artifact ?? null },
        },
      });
    },
    () => onOpenChange(false),
  );
  if (moving === null) return null;
  const commits = lane.waits.kind === 'artifact' ? lane.waits.commitsAhead : null;
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={`Promote build ${moving.build} to ${lane.name}?`}
      says={`The very bytes that are in ${source?.name} move. Nothing is built.`}
      acts={
        <Button tone="action" disabled={promote.isPending} onClick={() => promote.mutate()}>
          {promote.isPending ? 'Promoting' : `Promote ${moving.build} to ${lane.name}`}
        </Button>
      }
    >
      <WhatChanges project={project} comes={moving} replaces={lane.serves}>
        <dt className="text-ink-2">brings</dt>
        <dd>{commits === null ? 'the first deploy here' : counted(commits, 'commit')}</dd>
        <dt className="text-ink-2">at</dt>
        <dd>
          <code>{lane.address}</code>
        </dd>
      </WhatChanges>
      {promote.isError ? <Failed error={promote.error} /> : null}
    </Sheet>
  );
}
