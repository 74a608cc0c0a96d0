/** Work that runs one at a time. */
export interface Coalesced<T> {
  /**
   * Has it done from now on: whoever asks while it runs gets one more run, which all who ask meanwhile share, since the
   * one under way may have begun before what they mean.
   */
  readonly run: () => Promise<T>;
  /** Settles when none is under way and none waits. Never rejects. */
  readonly settled: () => Promise<void>;
}

/** Makes work that runs one at a time. */
export function coalesced<T>(work: () => Promise<T>): Coalesced<T> {
  let running: Promise<T> | null = null;
  let next: Promise<T> | null = null;
  const run = (): Promise<T> => {
    if (running === null) {
      running = work().finally(() => {
        running = null;
      });
      return running;
    }
    next ??= running
      .catch(() => undefined) // Whoever asked for that one hears of it.
      .then(() => {
        next = null;
        return run();
      });
    return next;
  };
  return {
    run,
    settled: async () => {
      while (running !== null || next !== null) await Promise.allSettled([running, next]);
    },
  };
}

/** The same for work that is brought along each time, all of it alike. */
export function coalescing<T>(): (work: () => Promise<T>) => Promise<T> {
  let latest: () => Promise<T> = () => Promise.reject(new Error('no work was brought along'));
  const { run } = coalesced(() => latest());
  return (work) => {
    latest = work;
    return run();
  };
}
