import { counted, type Instant } from '@vaquero/core';
import { useState } from 'react';
import { ActLink } from '../parts/act-link.tsx';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { moment } from '../parts/words.ts';
import { useMayAct } from '../people/use-may.ts';
import { LiftSheet } from '../releases/lift-sheet.tsx';
import { PromoteSheet } from '../releases/promote-sheet.tsx';
import { RollBackSheet } from '../releases/roll-back-sheet.tsx';
import { LaneVisits } from '../visits/visits-line.tsx';
import { ThroughThreads } from './through-threads.tsx';
import { Waiting, WhatWaits } from './what-waits.tsx';
import type { Lane } from './window-of.ts';

/** The left block of a lane: what it is, and what it serves since when and by whom. */
export function LaneLeft({
  lane,
  project,
  now,
  threads,
}: {
  readonly lane: Lane;
  readonly project: string;
  readonly now: Instant;
  /** Where threads to the lane above pass. */
  readonly threads: readonly number[];
}) {
  const { serves, hold } = lane;
  return (
    <div className="left">
      <ThroughThreads at={threads} />
      <h2 className="flex items-baseline justify-between text-place font-[650]">
        {lane.name}
        <span className="text-small font-[400]">
          {hold !== null ? (
            <>
              <Glyph name="held" /> held
            </>
          ) : serves === null ? (
            <>
              <Glyph name="nothing" /> nothing yet
            </>
          ) : serves.confirmedAt === null ? (
            <>
              <Glyph name="stale" /> not confirmed
            </>
          ) : (
            <>
              <Glyph name="live" /> live
            </>
          )}
        </span>
      </h2>
      <a className="block break-words font-mono text-axis text-ink-2" href={lane.address}>
        {lane.address.replace(/^https?:\/\//, '').replaceAll('.', '.\u200b')}
      </a>
      {serves === null ? (
        <p className="mt-2 text-ink-2">{lane.rule}</p>
      ) : (
        <div className="mt-2 grid grid-cols-[30px_1fr] gap-x-2">
          <BrandMark digest={serves.artifact} size={30} className="mt-0.5" />
          <div className="min-w-0">
            <p className="text-name">
              build <b className="font-[650]">{serves.build}</b>{' '}
              <code className="text-ink-2">{serves.artifact.slice(0, 8)}</code>
            </p>
            <p className="said">{serves.subject}</p>
          </div>
          <p className="col-span-2 mt-1 text-small text-ink-2">
            since {moment(serves.committedAt, now)}, by {serves.by}
            {serves.kind === 'rolled-back' ? (
              <>
                , <Glyph name="rolled-back" /> rolled back
              </>
            ) : null}
          </p>
          {(lane.commitsBehind ?? 0) > 0 ? (
            <p className="col-span-2 text-small text-ink-2">
              {counted(lane.commitsBehind ?? 0, 'commit')} behind the branch
            </p>
          ) : null}
          <LaneVisits project={project} environment={lane.name} minutes={lane.minutes} now={now} />
        </div>
      )}
    </div>
  );
}

interface LaneRightProps {
  readonly lane: Lane;
  readonly lanes: readonly Lane[];
  readonly project: string;
  readonly now: Instant;
  /** Where threads to the lane below pass. */
  readonly threads: readonly number[];
}

/** The right block of a lane: what waits or what holds, and the acts. A shut act stays visible and says why. */
export function LaneRight(props: LaneRightProps) {
  const { lane, project, now } = props;
  const [open, setOpen] = useState<'promote' | 'roll-back' | 'lift' | null>(null);
  const promoting = useMayAct(project, lane, 'promote');
  const goingBack = useMayAct(project, lane, 'roll-back');
  const lifting = useMayAct(project, lane, 'hold');
  const show =
    (what: typeof open) =>
    (isOpen: boolean): void =>
      setOpen(isOpen ? what : null);
  return (
    <div className="right">
      <ThroughThreads at={props.threads} />
      {lane.hold !== null ? (
        <Waiting
          act={
            <Button
              tone="warn"
              disabled={!lifting.may}
              data-act="lift"
              onClick={() => setOpen('lift')}
            >
              Lift hold…
            </Button>
          }
          top={
            <>
              <Glyph name="held" /> held since {moment(lane.hold.since, now)}
            </>
          }
        >
          <p className="said">“{lane.hold.reason}”</p>
          <p className="text-small text-ink-2">
            by {lane.hold.by}
            {lifting.may ? '' : `. Lifting it takes ${lifting.who}.`}
          </p>
        </Waiting>
      ) : (
        <WhatWaits
          lane={lane}
          project={project}
          now={now}
          promoting={promoting}
          open={() => setOpen('promote')}
        />
      )}
      {lane.serves === null ? null : lane.wayBack === null ? (
        <p className="mt-1 text-small text-ink-2">No earlier deploy to go back to.</p>
      ) : (
        <p className="mt-1.5 text-small text-ink-2">
          <ActLink act="roll-back" {...goingBack} onClick={() => setOpen('roll-back')}>
            Roll back…
          </ActLink>{' '}
          to build {lane.wayBack.build}{' '}
          <BrandMark digest={lane.wayBack.artifact} size={14} className="align-[-2px]" />
          {goingBack.may ? '' : `, which takes ${goingBack.who}`}
        </p>
      )}
      <PromoteSheet
        lane={lane}
        lanes={props.lanes}
        project={project}
        open={open === 'promote'}
        onOpenChange={show('promote')}
      />
      <RollBackSheet
        lane={lane}
        project={project}
        open={open === 'roll-back'}
        onOpenChange={show('roll-back')}
      />
      <LiftSheet lane={lane} project={project} open={open === 'lift'} onOpenChange={show('lift')} />
    </div>
  );
}
