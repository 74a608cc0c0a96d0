declare module '../base/deps.ts' {
  interface Deps {
    readonly logs: LogTopics;
  }
}

/** Bytes of an attempt's log as they come: offset and bytes; null when the attempt is over. */
export type LogPiece = { readonly offset: number; readonly bytes: Buffer } | null;

/** Logs of running attempts, told within this process as they come. What other processes took is read from the rows. */
export interface LogTopics {
  readonly tell: (attemptId: string, piece: LogPiece) => void;
  readonly listen: (attemptId: string, listener: (piece: LogPiece) => void) => () => void;
}

/** Makes the topics of one process. */
export function makeLogTopics(): LogTopics {
  const topics = new Map<string, Set<(piece: LogPiece) => void>>();
  return {
    tell: (attemptId, piece) => {
      for (const listener of topics.get(attemptId) ?? []) listener(piece);
    },
    listen: (attemptId, listener) => {
      const those = topics.get(attemptId) ?? new Set();
      topics.set(attemptId, those.add(listener));
      return () => {
        those.delete(listener);
        if (those.size === 0) topics.delete(attemptId);
      };
    },
  };
}
