import type { ProjectEvent } from '@vaquero/contracts';

/** What happened in a project, told to whoever listens in this process. */
export interface ProjectEvents {
  readonly tell: (projectId: string, event: ProjectEvent) => void;
  readonly listen: (projectId: string, listener: (event: ProjectEvent) => void) => () => void;
  /** Log bytes of an attempt, told as they come: offset and bytes; null when the attempt is over. */
  readonly tellLog: (attemptId: string, chunk: { offset: number; bytes: Buffer } | null) => void;
  readonly listenLog: (
    attemptId: string,
    listener: (chunk: { offset: number; bytes: Buffer } | null) => void,
  ) => () => void;
  /** A session or a token has ended, by `keyOfCredential`. */
  readonly tellEnded: (key: string) => void;
  readonly listenEnded: (key: string, listener: () => void) => () => void;
}

/** Makes the events of one process. */
export function makeProjectEvents(): ProjectEvents {
  const projects = makeTopic<ProjectEvent>();
  const logs = makeTopic<{ offset: number; bytes: Buffer } | null>();
  const endings = makeTopic<null>();
  return {
    tell: projects.tell,
    listen: projects.listen,
    tellLog: logs.tell,
    listenLog: logs.listen,
    tellEnded: (key) => endings.tell(key, null),
    listenEnded: endings.listen,
  };
}

function makeTopic<Event>(): {
  tell: (key: string, event: Event) => void;
  listen: (key: string, listener: (event: Event) => void) => () => void;
} {
  const listeners = new Map<string, Set<(event: Event) => void>>();
  return {
    tell: (key, event) => {
      for (const listener of listeners.get(key) ?? []) listener(event);
    },
    listen: (key, listener) => {
      const those = listeners.get(key) ?? new Set();
      those.add(listener);
      listeners.set(key, those);
      return () => {
        those.delete(listener);
        if (those.size === 0) listeners.delete(key);
      };
    },
  };
}
