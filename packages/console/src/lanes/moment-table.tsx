import type { LaneReply } from '@vaquero/contracts';
import { type Instant, liveAt } from '@vaquero/core';
import { useState } from 'react';
import { BrandMark } from '../parts/brand-mark.tsx';
import { Button } from '../parts/button.tsx';
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
      <table className="w-full border-collapse">
        <tbody>
          {lanes.environments.map((lane, place) => (
            <MomentRow
              key={lane.name}
              lane={lane}
              at={instant}
              now={lanes.now}
              sameAs={
                place > 0 && first !== undefined ? { name: top?.name ?? '', artifact: first } : null
              }
              project={project}
              isPinned={isPinned}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

interface MomentRowProps {
  readonly lane: Lane;
  readonly at: Instant;
  readonly now: Instant;
  readonly sameAs: { readonly name: string; readonly artifact: string } | null;
  readonly project: string;
  /** Whether a way back to what was live then is offered. */
  readonly isPinned: boolean;
}

function MomentRow({ lane, at, now, sameAs, project, isPinned }: MomentRowProps) {
  const { may } = useMayAct(project, lane, 'roll-back');
  const [isOpen, setOpen] = useState(false);
  const deploy = liveAt(lane.ledger, at);
  const isBack = deploy !== undefined && lane.serves?.artifact !== deploy.artifact;
  return (
    <tr className="border-t border-rule first:border-t-0">
      <th className="w-28 pr-3" scope="row">
        {lane.name}
      </th>
      {deploy === undefined ? (
        <td className="text-ink-2">served nothing, as far as this page reaches</td>
      ) : (
        <>
          <td className="whitespace-nowrap pr-3">
            <BrandMark digest={deploy.artifact} size={14} className="align-[-2px]" />{' '}
            <b className="font-[650]">{deploy.build}</b>{' '}
            <code className="text-ink-2">{deploy.artifact.slice(0, 8)}</code>
          </td>
          <td className="said pr-3">{deploy.subject}</td>
          <td className="whitespace-nowrap pr-3 text-ink-2">
            since {moment(deploy.committedAt, now)}
          </td>
          <td className="pr-3 text-ink-2">{deploy.by}</td>
          <td className="text-right text-good">
            {sameAs?.artifact === deploy.artifact ? `= same bytes as ${sameAs.name}` : ''}
          </td>
          <td className="py-0.5 text-right">
            {isPinned && may && isBack ? (
              <Button tone="quiet" onClick={() => setOpen(true)}>
                Roll back to this…
              </Button>
            ) : null}
            <RollBackSheet
              lane={lane}
              project={project}
              open={isOpen}
              onOpenChange={setOpen}
              to={deploy}
            />
          </td>
        </>
      )}
    </tr>
  );
}
