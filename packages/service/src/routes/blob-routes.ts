import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { roleRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import { blobPath, storedSize, storeOf } from '../artifacts/blob-store.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { serve } from '../http/serve-route.ts';

/** Serves blobs to edges that do not share the store. Whoever takes one checks it against its name. */
export function serveBlobs(app: Express, deps: Deps): void {
  serve(app, deps, roleRoutes.blobRoute, async ({ params: { digest }, res }) => {
    const store = storeOf(deps.config.stateDirectory);
    const size = storedSize(store, digest);
    if (size === undefined) return refused({ code: 'not-found', what: 'blob', name: digest });
    res.writeHead(200, {
      'content-type': 'application/octet-stream',
      'content-length': size,
      'cache-control': 'no-store',
    });
    // An edge that went away, or a disk that fails midway, cuts the connection: the length tells.
    await pipeline(createReadStream(blobPath(store, digest)), res).catch((err: unknown) =>
      deps.log.warn({ err, digest }, 'a blob was not sent whole'),
    );
    return undefined;
  });
}
