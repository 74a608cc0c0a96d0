import type { RoutingTable, roleRoutes } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';

/** What the edge's first process tells those that answer visitors. */
export type ToWorker =
  | {
      readonly say: 'table';
      readonly table: Omit<RoutingTable, 'artifacts'>;
      /** Null where they are those of the table before. */
      readonly artifacts: RoutingTable['artifacts'] | null;
      readonly lookKey: string | null;
    }
  | { readonly say: 'done'; readonly id: number; readonly why: string | null }
  | { readonly say: 'stop' };

/** What they tell it. */
export type ToParent =
  | { readonly say: 'listens'; readonly port: number }
  | { readonly say: 'adopted'; readonly revision: number }
  | { readonly say: 'counted'; readonly rows: roleRoutes.FiguresBatch['rows'] }
  | { readonly say: 'bring' | 'mend'; readonly id: number; readonly artifact: Digest };
