import { storeRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../deps.ts';
import { serve } from '../http/serve-route.ts';
import { sweepStore } from './sweep-store.ts';

/** Serves the store to the operator. */
export function serveStore(app: Express, deps: Deps): void {
  serve(app, deps, storeRoutes.sweepRoute, async ({ caller }) => {
    const swept = await sweepStore(deps);
    deps.log.info({ by: caller.name, ...swept }, 'store swept');
    return swept;
  });
}
