import type { DeploySeen, LaneReply } from '@vaquero/contracts';
import { type Instant, liveAt } from '@vaquero/core';
import { useState } from 'react';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
import { type Column, Table } from '../parts/table.tsx';
import { clock, day, moment } from '../parts/words.ts';
import { useMayAct } from '../people/use-may.ts';
import { RollBackSheet } from '../releases/roll-back-sheet.tsx';
import type { Lane } from './window-of.ts';

interface MomentTableProps {
  readonly lanes: LaneReply;
  readonly at: Instant | null;
  /** The instant stands in the page's address, and stays until it is let go. */
  readonly isPinned: boolean;
  readonly letGo: () => void;
  readonly project: string;
}

/** What was live at an instant: one row a lane, and whether the lanes served the same bytes. */
export function MomentTable({ lanes, at, isPinned, letGo, project }: MomentTableProps) {
  const instant = at ?? lanes.now;
  const [top] = lanes.environments;
  const first = top === undefined ? undefined : liveAt(top.ledger, instant)?.artifact;
  return (
    <section
      className="wide-only mt-auto grid grid-cols-[13.5rem_1fr] gap-x-3.5 border-t-2 border-action pt-1.5 max-[1199px]:grid-cols-1"
      aria-live="polite"
      aria-label="What was live"
    >
      <h2 className="font-[600]">
        {at === null ? 'What is live' : 'What was live at'}{' '}
        <b className="block font-serif text-section text-action">
          {at === null ? 'now' : `${day(at)} ${clock(at)}`}
        </b>
        {isPinned ? (
          <button
            type="button"
            className="text-small font-[400] text-action underline underline-offset-2"
            onClick={letGo}
          >
            Back to now (Esc)
          </button>
        ) : null}
      </h2>
      <Table
        caption="What each environment served"
        isHeadless
        columns={columnsOf({ instant, now: lanes.now, project, isPinned })}
        rows={lanes.environments.map((lane, place) => ({
          lane,
          deploy: liveAt(lane.ledger, instant),
          sameAs:
            place > 0 && top !== undefined && first !== undefined
              ? { name: top.name, artifact: first }
              : null,
        }))}
        keyOf={({ lane }) => lane.name}
        empty="There is no environment yet."
        rowClass="first:border-t-0 border-t border-b-0 align-baseline leading-normal"
      />
    </section>
  );
}

/** What a lane served at the instant, and what the one on top did. */
interface Moment {
  readonly lane: Lane;
  readonly deploy: DeploySeen | undefined;
  readonly sameAs: { readonly name: string; readonly artifact: string } | null;
}

function columnsOf({
  instant,
  now,
  project,
  isPinned,
}: {
  readonly instant: Instant;
  readonly now: Instant;
  readonly project: string;
  readonly isPinned: boolean;
}): readonly Column<Moment>[] {
  return [
    { head: 'environment', isName: true, className: 'w-28', cell: ({ lane }) => lane.name },
    {
      head: 'build',
      className: 'whitespace-nowrap',
      cell: ({ deploy }) =>
        deploy === undefined ? null : (
          <>
            <BrandMark digest={deploy.artifact} size={14} className="align-[-2px]" />{' '}
            <b className="font-[650]">{deploy.build}</b>{' '}
            <code className="text-ink-2">{deploy.artifact.slice(0, 8)}</code>
          </>
        ),
    },
    {
      head: 'subject',
      className: 'said',
      cell: ({ deploy }) =>
        deploy?.subject ?? (
          <span className="text-ink-2">served nothing, as far as this page reaches</span>
        ),
    },
    {
      head: 'since',
      className: 'whitespace-nowrap text-ink-2',
      cell: ({ deploy }) =>
        deploy === undefined ? null : `since ${moment(deploy.committedAt, now)}`,
    },
    { head: 'by', className: 'text-ink-2', cell: ({ deploy }) => deploy?.by },
    {
      head: 'compared',
      className: 'text-right text-good',
      cell: ({ deploy, sameAs }) =>
        sameAs !== null && sameAs.artifact === deploy?.artifact
          ? `= same bytes as ${sameAs.name}`
          : '',
    },
    {
      head: 'way back',
      className: 'pr-0 py-0.5 text-right',
      cell: ({ lane, deploy }) =>
        deploy === undefined ? null : (
          <WayBack key={instant} lane={lane} to={deploy} project={project} isPinned={isPinned} />
        ),
    },
  ];
}

/** The way back to what a lane served at the pinned instant. */
function WayBack({
  lane,
  to,
  project,
  isPinned,
}: {
  readonly lane: Lane;
  readonly to: DeploySeen;
  readonly project: string;
  readonly isPinned: boolean;
}) {
  const { may } = useMayAct(project, lane, 'roll-back');
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      {isPinned && may && lane.serves?.artifact !== to.artifact ? (
        <Button tone="quiet" onClick={() => setOpen(true)}>
          Roll back to this…
        </Button>
      ) : null}
      <RollBackSheet lane={lane} project={project} open={isOpen} onOpenChange={setOpen} to={to} />
    </>
  );
}
