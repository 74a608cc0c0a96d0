/** What visitors asked for in a span of time. */
export interface Figures {
  readonly requests: number;
  readonly bytes: number;
  /** By classes of statuses: 2xx, 3xx, 4xx, 5xx. */
  readonly found: number;
  readonly redirected: number;
  readonly missed: number;
  readonly failed: number;
  /** Whose first byte took over a second. */
  readonly slow: number;
}

/** Figures that can be compared whatever time they are of: a rate, and shares of all requests. */
export interface Rates {
  readonly perMinute: number;
  readonly missedShare: number;
  readonly failedShare: number;
  readonly slowShare: number;
}

/** Rates over a time in milliseconds; a time under a minute counts as one. */
export function ratesOf(figures: Figures, ms: number): Rates {
  const { requests, missed, failed, slow } = figures;
  const share = (count: number): number => (requests === 0 ? 0 : count / requests);
  return {
    perMinute: requests / Math.max(1, ms / 60_000),
    missedShare: share(missed),
    failedShare: share(failed),
    slowShare: share(slow),
  };
}

/** A rate as people read it: `12 a minute`, or by the hour where that would be under one. */
export function rateInWords(perMinute: number): string {
  if (perMinute >= 1)
    return `${perMinute < 10 ? perMinute.toFixed(1) : Math.round(perMinute)} a minute`;
  const perHour = perMinute * 60;
  return perHour === 0 ? '0' : `${perHour < 10 ? perHour.toFixed(1) : Math.round(perHour)} an hour`;
}

/** A share as people read it: `0`, `under 0.1 %`, `2.4 %`. */
export function shareInWords(share: number): string {
  if (share === 0) return '0';
  const percent = share * 100;
  if (percent < 0.1) return 'under 0.1 %';
  return `${percent < 10 ? percent.toFixed(1) : Math.round(percent)} %`;
}
