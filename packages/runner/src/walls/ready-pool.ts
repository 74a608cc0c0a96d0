/** Things that are made before they are needed, because making one takes longer than many a step. */
export interface ReadyPool<Thing> {
  /** Hands out one that nobody has used; whoever takes it closes it. Throws when none can be made. */
  readonly take: () => Promise<Thing>;
  readonly stop: () => Promise<void>;
}

/** What a pool holds: whether it is still as it was made, and how it goes. */
export interface Perishable {
  readonly isGood: () => boolean;
  readonly close: () => void | Promise<void>;
}

const refillAfterMs = 40;

/** Keeps `most` of a thing ready. `failed` hears of one that could not be made ahead; its taker then tries again. */
export function keepReady<Thing extends Perishable>(
  most: number,
  make: () => Promise<Thing>,
  failed: (error: unknown) => void,
): ReadyPool<Thing> {
  const ready: Thing[] = [];
  let isStopped = false;
  let making: Promise<void> | null = null;

  async function fill(): Promise<void> {
    while (ready.length < most && !isStopped) ready.push(await make());
  }
  function refill(): void {
    making ??= fill()
      .catch(failed)
      .finally(() => {
        making = null;
      });
  }

  refill();
  /** Whoever took one is about to use it: making the next must not compete with that. */
  let later: NodeJS.Timeout | undefined;
  return {
    take: async () => {
      let thing = ready.shift();
      while (thing !== undefined && !thing.isGood()) {
        await thing.close();
        thing = ready.shift();
      }
      const taken = thing ?? (await make());
      clearTimeout(later);
      later = setTimeout(refill, refillAfterMs);
      return taken;
    },
    stop: async () => {
      isStopped = true;
      clearTimeout(later);
      await making;
      await Promise.all(ready.splice(0).map((thing) => thing.close()));
    },
  };
}
