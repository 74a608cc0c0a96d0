import type { RoutingTable, roleRoutes } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import type { NameAnswer } from '../routing/artifact-names.ts';

/** What the edge's first process tells those that answer visitors. */
export type ToWorker =
  | {
      readonly say: 'table';
      readonly table: RoutingTable;
      readonly lookKey: string | null;
    }
  | { readonly say: 'reach'; readonly isAway: boolean }
  | { readonly say: 'done'; readonly id: number; readonly why: string | null }
  | { readonly say: 'named'; readonly id: number; readonly answer: NameAnswer }
  | { readonly say: 'stop' };

/** What they tell it. */
export type ToParent =
  | { readonly say: 'listens'; readonly port: number }
  | { readonly say: 'adopted'; readonly revision: number }
  | { readonly say: 'counted'; readonly rows: roleRoutes.FiguresBatch['rows'] }
  | Asked;

/** What only the first process may fetch. */
export type Asked =
  | { readonly say: 'bring' | 'mend'; readonly id: number; readonly artifact: Digest }
  | { readonly say: 'name'; readonly id: number; readonly host: string };
