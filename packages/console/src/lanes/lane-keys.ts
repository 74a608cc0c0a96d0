import type { LaneReply } from '@vaquero/contracts';
import { axisStep, type Instant, later } from '@vaquero/core';
import type { KeyboardEvent } from 'react';
import type { Showing } from './shown.ts';
import { type LaneWindow, usualSpan } from './window-of.ts';

/** What the keys of the lane chart act on. */
interface Keyed {
  readonly lanes: LaneReply;
  readonly onCursor: (at: Instant | null) => void;
  readonly pinned: Instant | null;
  readonly onPin: (at: Instant | null) => void;
  readonly showing: Showing;
}

/**
 * Acts on a key that was pressed in the lane chart.
 * @param isOnChart Whether the chart itself has the focus, and nothing in it.
 * @returns Whether the browser has nothing to do with the key any more.
 */
export function actsOnKey(
  event: KeyboardEvent<HTMLElement>,
  isOnChart: boolean,
  { lanes, onCursor, pinned, onPin, showing }: Keyed,
  window: LaneWindow,
  cursor: Instant | null,
): boolean {
  if (event.key === 'Escape') {
    onCursor(null);
    onPin(null);
  }
  // Enter on a band opens its build; on the chart itself it pins the instant, or lets it go.
  if (event.key === 'Enter' && isOnChart) {
    onPin(cursor === pinned ? null : cursor);
    onCursor(null);
  }
  const isOther = showsOther(event.key, showing, cursor);
  if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return isOther;
  const back = event.key === 'ArrowLeft';
  onCursor(
    event.shiftKey
      ? nextDeploy(lanes, cursor ?? window.now, back)
      : within(
          later(cursor ?? window.now, back ? -axisStep(window) : axisStep(window)),
          window.from,
          window.now,
        ),
  );
  return true;
}

function within(at: Instant, from: Instant, to: Instant): Instant {
  return at < from ? from : at > to ? to : at;
}

/** Shows less or more time, or what was earlier or later, where a key says so. */
function showsOther(key: string, showing: Showing, cursor: Instant | null): boolean {
  if (key === '+') showing.zoom(-1, cursor);
  else if (key === '-') showing.zoom(1, cursor);
  else if (key === '0') showing.show(usualSpan, cursor);
  else if (key === 'PageUp') showing.pan(-1);
  else if (key === 'PageDown') showing.pan(1);
  else return false;
  return true;
}

/** The instant of the deploy before or after another, over all lanes. */
function nextDeploy(lanes: LaneReply, at: Instant, back: boolean): Instant {
  const instants = lanes.environments
    .flatMap((lane) => lane.ledger.map((deploy) => deploy.committedAt))
    .sort((a, b) => a - b);
  return (back ? instants.findLast((each) => each < at) : instants.find((each) => each > at)) ?? at;
}
