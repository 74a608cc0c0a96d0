import { setTimeout as pause } from 'node:timers/promises';
import { execa } from 'execa';

let sleepers = 0;

/** A step that sleeps until the test wakes it, whatever the machine's pace. */
export interface Sleeper {
  /** Goes before what it is to do then. */
  readonly shell: string;
  /** Wakes all that sleep so, until something has come of it. */
  readonly wakeFor: <T>(awaited: Promise<T>) => Promise<T>;
}

export function sleeper(): Sleeper {
  sleepers += 1;
  // Nobody else of the machine sleeps for so long: by that its process is found.
  const sleeps = `sleep 86${process.pid}.${sleepers}`;
  return {
    shell: `${sleeps} || true`,
    wakeFor: async (awaited) => {
      let isOver = false;
      const waking = (async () => {
        while (!isOver) {
          await execa('pkill', ['-xf', sleeps], { reject: false });
          await pause(50);
        }
      })();
      try {
        return await awaited;
      } finally {
        isOver = true;
        await waking;
      }
    },
  };
}
