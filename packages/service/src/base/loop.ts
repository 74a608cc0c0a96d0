import { setTimeout as pause } from 'node:timers/promises';
import type { Logger } from 'pino';

const longestBackOffMs = 30_000;

/**
 * How long a loop waits after so many failures in a row: twice as long after each, up to 30 s, and never less than is
 * usual for it; up to a fifth more, by `jitter` from 0 to 1, so that several processes do not turn together.
 */
export function waitMs(everyMs: number, failures: number, jitter: number): number {
  const backOff = Math.min(longestBackOffMs, everyMs * 2 ** Math.min(failures, 6));
  return Math.max(everyMs, backOff) * (1 + jitter / 5);
}

/**
 * Runs `turn` again and again, `everyMs` apart, never overlapping itself; a failing turn is logged and
 * the next one waits longer, up to 30 s. Returns a function that ends it and waits for the last turn.
 */
export function startLoop(
  log: Logger,
  name: string,
  everyMs: number,
  turn: (signal: AbortSignal) => Promise<void>,
): () => Promise<void> {
  const stop = new AbortController();
  const running = (async () => {
    let failures = 0;
    while (!stop.signal.aborted) {
      try {
        await turn(stop.signal);
        failures = 0;
      } catch (err) {
        failures += 1;
        if (!stop.signal.aborted) log.warn({ err, loop: name, failures }, 'loop turn failed');
      }
      await pause(waitMs(everyMs, failures, Math.random()), undefined, {
        signal: stop.signal,
      }).catch(() => undefined); // An abort only ends the wait.
    }
  })();
  return async () => {
    stop.abort();
    await running;
  };
}
