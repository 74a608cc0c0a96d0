import { environmentRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';
import type { Lane } from '../lanes/window-of.ts';
import { Button } from '../parts/button.tsx';
import { Failed } from '../parts/failed.tsx';
import { Sheet } from '../parts/sheet.tsx';
import { useMove } from './use-move.ts';

interface LiftSheetProps {
  readonly lane: Lane;
  readonly project: string;
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
}

/** Lifting a hold: what happens then is said first. */
export function LiftSheet({ lane, project, open, onOpenChange }: LiftSheetProps) {
  const lift = useMove(
    project,
    () =>
      api.call(environmentRoutes.liftHoldRoute, {
        params: { project, environment: lane.name },
        body: { generation: lane.generation },
      }),
    () => onOpenChange(false),
  );
  if (lane.hold === null) return null;
  const then = lane.isOnWord
    ? `It may be ${lane.acceptsFrom === null ? 'let in' : 'promoted'} to again; nothing moves by itself.`
    : lane.waits.kind === 'build'
      ? `Build ${lane.waits.build}, which came meanwhile, goes live by itself.`
      : 'New commits go live by themselves again.';
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title={`Lift the hold of ${lane.name}?`}
      says={then}
      acts={
        <Button tone="action" disabled={lift.isPending} onClick={() => lift.mutate()}>
          {lift.isPending ? 'Lifting' : 'Lift hold'}
        </Button>
      }
    >
      <p>
        Held by {lane.hold.by}: <span className="said">“{lane.hold.reason}”</span>
      </p>
      {lift.isError ? <Failed error={lift.error} /> : null}
    </Sheet>
  );
}
