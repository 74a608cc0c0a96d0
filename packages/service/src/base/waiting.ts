/** Does pieces of work one after another, whatever becomes of each. */
export type InTurn = <T>(work: () => Promise<T>) => Promise<T>;

/** Makes a turn of its own. */
export function makeTurn(): InTurn {
  let last: Promise<unknown> = Promise.resolve();
  return (work) => {
    const next = last.then(work);
    last = next.catch(() => undefined); // Its caller hears of the failure; the next one must not wait on it.
    return next;
  };
}

/** Lets waiters wait for a call of `ring`, or for their time to pass. */
export interface Nudge {
  readonly ring: () => void;
  readonly wait: (ms: number, signal: AbortSignal) => Promise<void>;
}

/** Makes a nudge. A waiter returns at the next ring, when its time is over, or when its signal aborts. */
export function makeNudge(): Nudge {
  const waiters = new Set<() => void>();
  return {
    ring: () => {
      for (const wake of [...waiters]) wake();
    },
    wait: (ms, signal) =>
      new Promise((resolve) => {
        const wake = (): void => {
          waiters.delete(wake);
          clearTimeout(timer);
          signal.removeEventListener('abort', wake);
          resolve();
        };
        const timer = setTimeout(wake, ms);
        waiters.add(wake);
        if (signal.aborted) wake();
        else signal.addEventListener('abort', wake, { once: true });
      }),
  };
}
