import type { Logger } from 'pino';
import type { Doorbell, Ring } from '../repositories/rings.ts';

interface Running {
  again: { ring: Ring; readonly done: Promise<void>; readonly start: (ring: Ring) => void } | null;
  done: Promise<void>;
}

/** Makes a doorbell that calls `look`, never twice at once for one repository. */
export function makeDoorbell(
  log: Logger,
  look: (repositoryId: string, ring: Ring) => Promise<void>,
): Doorbell {
  const running = new Map<string, Running>();
  let stopped = false;

  function start(repositoryId: string, ring: Ring): Promise<void> {
    const done = look(repositoryId, ring).finally(() => {
      const again = running.get(repositoryId)?.again ?? null;
      running.delete(repositoryId);
      again?.start(again.ring);
    });
    running.set(repositoryId, { again: null, done });
    return done;
  }

  function ask(repositoryId: string, ring: Ring): Promise<void> {
    if (stopped) return Promise.resolve();
    const now = running.get(repositoryId);
    if (now === undefined) return start(repositoryId, ring);
    if (now.again === null) {
      let begin = (_: Ring): void => undefined;
      const done = new Promise<void>((resolve, reject) => {
        begin = (newest) => {
          start(repositoryId, newest).then(resolve, reject);
        };
      });
      now.again = { ring, done, start: begin };
    } else {
      // One look for two who rang: what each of them knows of is not all that moved.
      now.again.ring = { ...now.again.ring, refs: null };
    }
    return now.again.done;
  }

  return {
    ring: (repositoryId, ring) => {
      ask(repositoryId, ring).catch((err: unknown) =>
        log.warn({ err, repositoryId }, 'look failed'),
      );
    },
    ringAndWait: ask,
    stop: async () => {
      stopped = true;
      await Promise.allSettled([...running.values()].map((one) => one.done));
    },
  };
}
