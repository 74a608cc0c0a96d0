import { storeRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import { sweepStore } from '../artifacts/sweep-store.ts';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';

/** Serves the store to the operator. */
export function serveStore(app: Express, deps: Deps): void {
  serve(app, deps, storeRoutes.sweepRoute, async ({ caller }) => {
    const swept = await sweepStore(deps);
    deps.log.info({ by: caller.name, ...swept }, 'store swept');
    return swept;
  });
}
