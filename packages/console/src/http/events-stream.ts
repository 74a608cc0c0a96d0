import { auditRoutes } from '@vaquero/contracts';

/** What a page is told: something of a project changed (null: of any), all may have, or nothing can be heard. */
export type Heard =
  | { readonly kind: 'changed'; readonly project: string | null }
  | { readonly kind: 'everything' }
  | { readonly kind: 'lost' };

const againMs = 3_000;

/**
 * Listens to what the service says. A lost connection goes on where it was (the browser sends the id of the last event);
 * one that was refused is asked for anew, after which everything may have changed. Returns the way to end it.
 */
export function listenToService(hear: (heard: Heard) => void): () => void {
  let source: EventSource;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let isNew = false;
  const open = (): void => {
    source = new EventSource(auditRoutes.eventsRoute.path);
    source.onopen = () => {
      // What was shown while nothing was heard may be a failure to load.
      if (isNew) hear({ kind: 'everything' });
      isNew = false;
    };
    source.onmessage = ({ data }: MessageEvent<string>) => {
      const { project } = auditRoutes.projectEvent.parse(JSON.parse(data));
      hear({ kind: 'changed', project });
    };
    source.addEventListener('everything', () => hear({ kind: 'everything' }));
    source.onerror = () => {
      isNew = true;
      hear({ kind: 'lost' });
      if (source.readyState === EventSource.CLOSED) timer = setTimeout(open, againMs);
    };
  };
  open();
  return () => {
    clearTimeout(timer);
    source.close();
  };
}
