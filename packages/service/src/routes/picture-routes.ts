import { pictureRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { serve } from '../http/serve-route.ts';
import { keepImages, readImage } from '../pictures/picture-files.ts';
import { beingTaken, endTaking, picturesById, takeWanted } from '../pictures/picture-rows.ts';

/** Serves runners that take pictures, and people who look at them. */
export function servePictures(app: Express, deps: Deps): void {
  const { stateDirectory } = deps.config;
  serve(app, deps, pictureRoutes.pictureClaimRoute, async ({ res, body }) => {
    const gone = new AbortController();
    res.on('close', () => gone.abort());
    const until = performance.now() + body.waitMs;
    for (;;) {
      const row = gone.signal.aborted ? undefined : await takeWanted(deps.db, deps.clock());
      if (row !== undefined)
        return {
          pictures: row.id,
          fence: row.fence,
          project: row.project,
          builtAs: row.builtAs,
          before: row.before,
          after: row.after,
          pages: row.pages.map((page) => ({ ...page })),
          now: row.now as Instant,
        };
      const leftMs = until - performance.now();
      if (leftMs <= 0 || gone.signal.aborted) return null;
      await deps.queueNudge.wait(leftMs, gone.signal);
    }
  });
  serve(app, deps, pictureRoutes.picturesEndRoute, async ({ params: { pictures: id }, body }) => {
    const row = await beingTaken(deps.db, id, body.fence);
    if (row === undefined) return refused({ code: 'not-found', what: 'pictures', name: id });
    const known = body.pages.filter(({ place }) => place < row.pages.length);
    const taken = body.why === null ? await keepImages(stateDirectory, id, known) : [];
    const endedAt = deps.clock();
    const state = body.why === null ? ('taken' as const) : ('failed' as const);
    await endTaking(deps.db, row, { state, why: body.why, taken, endedAt });
    return null;
  });
  serve(app, deps, pictureRoutes.pictureRoute, async ({ project, params, res }) => {
    const { pictures: id, page, side } = params;
    const row = await picturesById(deps.db, project.id, id);
    const bytes = row === undefined ? undefined : await readImage(stateDirectory, id, page, side);
    if (bytes === undefined) return refused({ code: 'not-found', what: 'picture', name: id });
    res.writeHead(200, {
      'content-type': 'image/png',
      'content-length': bytes.length,
      // Taken by a browser that showed pages of strangers: it is a picture and nothing else.
      'content-security-policy': "default-src 'none'; sandbox",
      'cache-control': 'private, max-age=3600',
    });
    res.end(bytes);
    return undefined;
  });
}
