import { z } from 'zod';
import { route } from '../http/route.ts';
import { nothing } from '../vocabulary.ts';

export const swept = z.object({
  /** Blobs that no artifact holds, put aside for a day, and their bytes. */
  aside: z.number(),
  asideBytes: z.number(),
  /** Those that had been put aside earlier, now removed. */
  removed: z.number(),
  /** A build was storing meanwhile, so that nothing was put aside. */
  putBack: z.boolean(),
});

/** Puts aside what no artifact holds, and removes what was put aside a day ago. It runs once an hour by itself. */
export const sweepRoute = route({
  method: 'POST',
  path: '/api/store/sweep',
  summary: 'Puts aside what no artifact holds',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: swept,
});
