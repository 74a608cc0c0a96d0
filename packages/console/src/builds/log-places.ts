import { type RefObject, useLayoutEffect, useRef } from 'react';
import type { LogStart } from './use-whole-log.ts';

type Pane = RefObject<HTMLDivElement | null>;

/** Where reading begins, and what is read from there on. */
interface Placing {
  readonly lines: readonly unknown[];
  /** The line that is to be in sight; null where the start says it. */
  readonly meant: number | null;
  readonly start: LogStart;
  /** Which jump it is: the same start again is gone to again. */
  readonly jump: number;
  /** Told when the pane stands where it is to stand: more lines may be wanted. */
  readonly stands: (box: HTMLDivElement) => void;
}

/**
 * Puts a pane where reading begins, and from then on keeps the first line in sight where it is while lines come before it
 * or go: browsers do that themselves nowhere at the top. Returns what is to be told of each scroll.
 */
export function usePlaced(
  pane: Pane,
  { lines, meant, start, jump, stands }: Placing,
): (box: HTMLDivElement) => void {
  const placed = useRef('');
  const anchor = useRef<Anchor | null>(null);
  const latest = useRef(stands);
  latest.current = stands;
  const place = JSON.stringify([start, meant, jump]);
  useLayoutEffect(() => {
    const box = pane.current;
    if (box === null || lines.length === 0) return;
    if (placed.current === place) restore(box, anchor.current);
    else {
      placed.current = place;
      const line = meant === null ? null : lineOf(box, String(meant));
      if (line !== null) line.scrollIntoView({ block: 'nearest' });
      else box.scrollTop = 'before' in start ? box.scrollHeight : 0;
    }
    anchor.current = anchorOf(box);
    latest.current(box);
  }, [pane, lines, meant, start, place]);
  return (box) => {
    anchor.current = anchorOf(box);
    if (placed.current === place) latest.current(box);
  };
}

/** A line in sight, and how far below the upper edge of the pane it stands, in px. */
interface Anchor {
  readonly line: string;
  readonly top: number;
}

function lineOf(box: HTMLDivElement, line: string): Element | null {
  return box.querySelector(`[data-line="${line}"]`);
}

function anchorOf(box: HTMLDivElement): Anchor | null {
  const edge = box.getBoundingClientRect().top;
  for (const child of box.children) {
    const { top, bottom } = child.getBoundingClientRect();
    const line = child.getAttribute('data-line');
    if (bottom > edge && line !== null) return { line, top: top - edge };
  }
  return null;
}

function restore(box: HTMLDivElement, anchor: Anchor | null): void {
  const line = anchor === null ? null : lineOf(box, anchor.line);
  if (anchor === null || line === null) return;
  const top = line.getBoundingClientRect().top - box.getBoundingClientRect().top;
  box.scrollTop += top - anchor.top;
}
