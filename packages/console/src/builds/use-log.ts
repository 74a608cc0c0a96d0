import { buildRoutes, pathOf } from '@vaquero/contracts';
import { useEffect, useState } from 'react';

/** A line of a log, counted from 1 over the whole build. */
export interface ShownLine {
  readonly number: number;
  readonly text: string;
}

const most = 3000;

/** A build's log as it comes: its last lines, and whether it is over. A lost connection goes on where it was. */
export function useLog(
  project: string,
  number: number,
  attempts: number,
): { readonly lines: readonly ShownLine[]; readonly over: boolean } {
  const [lines, setLines] = useState<readonly ShownLine[]>([]);
  const [over, setOver] = useState(false);
  // A new attempt begins a new log, so their number is part of what the stream is opened for.
  // biome-ignore lint/correctness/useExhaustiveDependencies: attempts is what changes the log behind the same address.
  useEffect(() => {
    setLines([]);
    setOver(false);
    const decoder = new TextDecoder();
    let rest = '';
    let count = 0;
    const source = new EventSource(pathOf(buildRoutes.buildLogRoute, { project, build: number }));
    source.onmessage = (event: MessageEvent<string>) => {
      const latin = JSON.parse(event.data) as string;
      const parts = (
        rest +
        decoder.decode(
          Uint8Array.from(latin, (letter) => letter.charCodeAt(0)),
          { stream: true },
        )
      ).split('\n');
      rest = parts.pop() ?? '';
      const fresh = parts.map((text) => {
        count += 1;
        return { number: count, text };
      });
      setLines((shown) => [...shown, ...fresh].slice(-most));
    };
    const finish = (): void => {
      source.close();
      setOver(true);
    };
    source.addEventListener('end', finish);
    source.addEventListener('none', finish);
    return () => source.close();
  }, [project, number, attempts]);
  return { lines, over };
}
