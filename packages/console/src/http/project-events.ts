import { auditRoutes, pathOf } from '@vaquero/contracts';
import { useEffect } from 'react';
import { queries } from './api.ts';

/** Asks again for what a project's page shows whenever the service says that something changed. */
export function useProjectEvents(project: string): void {
  useEffect(() => {
    const source = new EventSource(pathOf(auditRoutes.eventsRoute, { project }));
    const refresh = (): void => void queries.invalidateQueries({ queryKey: [project] });
    source.onmessage = refresh;
    source.onopen = refresh;
    return () => source.close();
  }, [project]);
}
