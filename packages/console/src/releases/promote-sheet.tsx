import { environmentRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { counted } from '../parts/words.ts';
import { useMove } from './use-move.ts';
import { WhatItLetsIn } from './what-it-lets-in.tsx';

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
      <dl className="grid grid-cols-[5rem_1fr] gap-y-1">
        <dt className="text-ink-2">comes</dt>
        <dd>
          <BrandMark digest={moving.artifact} size={18} className="align-[-3px]" />{' '}
          <b className="font-[650]">{moving.build}</b> <code>{moving.artifact.slice(0, 12)}</code>{' '}
          <span className="said">{moving.subject}</span>
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
        <dt className="text-ink-2">brings</dt>
        <dd>{commits === null ? 'the first deploy here' : counted(commits, 'commit')}</dd>
        <dt className="text-ink-2">at</dt>
        <dd>
          <code>{lane.address}</code>
        </dd>
        <dt className="text-ink-2">lets in</dt>
        <dd>
          <WhatItLetsIn project={project} build={moving.build} />
        </dd>
      </dl>
      {promote.isError ? <Failed error={promote.error} /> : null}
    </Sheet>
  );
}
