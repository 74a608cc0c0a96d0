import { type Instant, later, readInstant } from '@vaquero/core';
import { useSearchParams } from 'react-router';
import { type Shown, type Span, spans, usualSpan } from './window-of.ts';

const dayMs = 86_400_000;
/** What the service tells of the past at most. */
const mostMs = 400 * dayMs;

/** What the page's address says that is shown, and the ways to another stretch. */
export interface Showing extends Shown {
  /** Shorter or longer; around an instant, if one is looked at. */
  readonly zoom: (by: -1 | 1, around: Instant | null) => void;
  readonly show: (span: Span, around: Instant | null) => void;
  /** Half a stretch earlier or later. */
  readonly pan: (by: -1 | 1) => void;
  readonly toPresent: () => void;
}

/** The stretch that the page's address names; one around the instant that it pins, where that would not be seen. */
export function useShown(pinned: Instant | null): Showing {
  const [search, setSearch] = useSearchParams();
  const now = Date.now() as Instant;
  const span = spans.find(({ key }) => key === search.get('span')) ?? usualSpan;
  const said = readInstant(Date.parse(search.get('until') ?? '')) ?? null;
  const until =
    said ?? (pinned !== null && pinned < now - span.ms ? later(pinned, span.ms / 2) : null);
  const set = (next: Span, end: Instant | null): void => {
    const isPresent = end === null || end >= now;
    setSearch(
      (before) => {
        const after = new URLSearchParams(before);
        if (next === usualSpan) after.delete('span');
        else after.set('span', next.key);
        if (isPresent) after.delete('until');
        else after.set('until', inAddress(Math.max(end, now - mostMs + next.ms)));
        // Whoever goes to the present lets go of what is out of sight there: it would lead back.
        if (isPresent && pinned !== null && pinned < now - next.ms) after.delete('at');
        return after;
      },
      { replace: true },
    );
  };
  const show = (next: Span, around: Instant | null): void =>
    set(next, around === null ? until : later(around, next.ms / 2));
  return {
    span,
    until,
    show,
    zoom: (by, around) => {
      const next = spans[spans.indexOf(span) + by];
      if (next !== undefined) show(next, around);
    },
    pan: (by) => set(span, later(until ?? now, (by * span.ms) / 2)),
    toPresent: () => set(span, null),
  };
}

function inAddress(at: number): string {
  return new Date(at).toISOString().replace(/\.\d+Z$/, 'Z');
}

const asked = [7, 31, 62, 124, 248, 400] as const;

/** How many days the service is asked for, so that all that is shown is among them: a few lengths, so that one may look about. */
export function daysFor({ span, until }: Shown): number {
  const now = Date.now();
  const days = (now - (until ?? now) + span.ms) / dayMs;
  return asked.find((each) => each >= days) ?? 400;
}
