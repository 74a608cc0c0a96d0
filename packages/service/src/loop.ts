import { setTimeout as pause } from 'node:timers/promises';
import type { Logger } from 'pino';

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
      const waitMs = Math.min(
        30_000,
        everyMs * 2 ** Math.min(failures, 6) * (1 + Math.random() / 5),
      );
      await pause(waitMs, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
    }
  })();
  return async () => {
    stop.abort();
    await running;
  };
}
