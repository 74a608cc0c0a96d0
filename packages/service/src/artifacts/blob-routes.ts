import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { roleRoutes } from '@vaquero/contracts';
import { readDigest } from '@vaquero/core';
import type { Express } from 'express';
import type { Deps } from '../deps.ts';
import { serveGuarded } from '../http/serve-route.ts';
import { refused } from '../refused.ts';
import { machineOf } from '../releases/machine-of.ts';
import { blobPath, storedSize, storeOf } from './blob-store.ts';

/** Serves blobs to edges that do not share the store. Whoever takes one checks it against its name. */
export function serveBlobs(app: Express, deps: Deps): void {
  serveGuarded(
    app,
    roleRoutes.blobRoute,
    (req) => machineOf(deps, req, 'edge'),
    async ({ params, res }) => {
      const name = params.digest ?? '';
      const digest = readDigest(name);
      const store = storeOf(deps.config.stateDirectory);
      const size = digest === undefined ? undefined : storedSize(store, digest);
      if (digest === undefined || size === undefined)
        return refused({ code: 'not-found', what: 'blob', name: name.slice(0, 100) });
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
    },
  );
}
