import { useEffect } from 'react';
import { queries } from './api.ts';
import { type Heard, listenToService } from './events-stream.ts';

/** What comes at once is one reason to ask again. */
const togetherMs = 150;

/** Asks again for what pages show whenever the service says that something changed. */
export function useEvents(): void {
  useEffect(() => {
    const changed = new Set<string | null>();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const askAgain = (): void => {
      timer = undefined;
      const isAll = changed.has(null);
      void queries.invalidateQueries({
        predicate: ({ queryKey: [first] }) =>
          isAll || first === 'projects' || changed.has(String(first)),
      });
      changed.clear();
    };
    const quit = listen((heard) => {
      changed.add(heard.kind === 'changed' ? heard.project : null);
      timer ??= setTimeout(askAgain, togetherMs);
    });
    return () => {
      clearTimeout(timer);
      quit();
    };
  }, []);
}

/** Hears what the browser's one stream says; where there are no shared workers each tab has its own. */
function listen(hear: (heard: Heard) => void): () => void {
  if (!('SharedWorker' in window)) return listenToService(hear);
  const { port } = new SharedWorker(new URL('./events-worker.ts', import.meta.url), {
    type: 'module',
    name: 'vaquero-events',
  });
  port.onmessage = ({ data }: MessageEvent<Heard>) => hear(data);
  const join = (): void => port.postMessage('join');
  const leave = (): void => port.postMessage('leave');
  // A page that is kept for the way back hears nothing meanwhile.
  const joinAgain = ({ persisted }: PageTransitionEvent): void => {
    if (!persisted) return;
    join();
    hear({ kind: 'everything' });
  };
  join();
  window.addEventListener('pagehide', leave);
  window.addEventListener('pageshow', joinAgain);
  return () => {
    leave();
    window.removeEventListener('pagehide', leave);
    window.removeEventListener('pageshow', joinAgain);
  };
}
