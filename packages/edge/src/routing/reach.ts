/** Whether the api is reached: visitors are sent to it for what only it can say, and not into the void. */
export interface Reach {
  readonly isAway: () => boolean;
  /** Notes that it was heard, or that it does not answer. */
  readonly note: (isAway: boolean) => void;
  /** Tells whoever answers visitors elsewhere of each change. */
  readonly listen: (listener: (isAway: boolean) => void) => void;
}

/** Makes it: nothing was heard yet. */
export function makeReach(): Reach {
  let away = true;
  const listeners: ((isAway: boolean) => void)[] = [];
  return {
    isAway: () => away,
    note: (isAway) => {
      if (isAway === away) return;
      away = isAway;
      for (const listener of listeners) listener(isAway);
    },
    listen: (listener) => void listeners.push(listener),
  };
}
