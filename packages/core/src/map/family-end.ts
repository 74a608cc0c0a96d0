import { allow, type Decision, refuse } from '../decision.ts';
import { type Instant, later } from '../instant.ts';
import type { Ends, Family } from './delivery-map.ts';

/** What decides how long an environment of a family lives on. */
export interface Lasting {
  /** When it last noticed a commit, somebody did something to it, or a visitor came. */
  readonly touchedAt: Instant;
  /** Since when its ref is gone; null while it is there. */
  readonly closedAt: Instant | null;
  /** Somebody keeps it at least until then. */
  readonly keptUntil: Instant | null;
}

/** When an environment of a family ends if nothing happens, and of what. */
export function endOf(
  ends: Ends,
  { touchedAt, closedAt, keptUntil }: Lasting,
): { readonly at: Instant; readonly because: 'closed' | 'untouched' } {
  const untouched = later(touchedAt, ends.untouchedMs);
  const closed = closedAt === null ? null : later(closedAt, ends.closedMs);
  const first =
    closed !== null && closed <= untouched
      ? ({ at: closed, because: 'closed' } as const)
      : ({ at: untouched, because: 'untouched' } as const);
  return keptUntil !== null && keptUntil > first.at ? { ...first, at: keptUntil } : first;
}

/** For so long before its end the owner of one that nobody touches is told. */
const noticeMs = 2 * 3_600_000;

/** Whether its owner is to be told now that it ends, as nobody has touched it. */
export function isEndingSoon(ends: Ends, one: Lasting, now: Instant): boolean {
  const { at, because } = endOf(ends, one);
  return because === 'untouched' && now < at && at - now <= noticeMs;
}

/** How far ahead somebody may keep one. */
const longestKeptMs = 366 * 86_400_000;

/**
 * Whether an environment of a family may be kept until some moment. One of those that live at once stays free, so that a
 * family always has room for what comes. `otherKept` counts the others that are kept. Refuses: kept-too-long, too-many-kept.
 */
export function decideKeep(
  rule: Family,
  { until, now, otherKept }: { until: Instant; now: Instant; otherKept: number },
): Decision<Instant> {
  if (until <= now || until - now > longestKeptMs)
    return refuse({ code: 'kept-too-long', until, most: later(now, longestKeptMs) });
  return otherKept + 1 >= rule.atMost
    ? refuse({ code: 'too-many-kept', family: rule.name, atMost: rule.atMost })
    : allow(until);
}
