import { createReadStream } from 'node:fs';
import { PassThrough } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { roleRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { findShared, keepShared, largestOf, OutputTooLarge } from '../builds/shared-outputs.ts';
import { serve } from '../http/serve-route.ts';
import { runnersOf } from '../machines/runner-rows.ts';

/** Serves runners that hand outputs of steps to one another. Each has outward connections only, so the api keeps them between. */
export function serveSharedOutputs(app: Express, deps: Deps): void {
  const { stateDirectory, sharedOutputBytes } = deps.config;
  serve(app, deps, roleRoutes.outputWantedRoute, async ({ params: { digest }, body, machine }) => {
    const others = (await runnersOf(deps.db)).filter((runner) => runner.id !== machine.id);
    const isWanted = others.length > 0 && body.bytes <= largestOf(sharedOutputBytes);
    return { wanted: isWanted && (await findShared(stateDirectory, digest)) === null };
  });
  serve(app, deps, roleRoutes.giveOutputRoute, async ({ params: { digest }, req }) => {
    // Piped by hand: what is too large ends this stream and not the connection, on which it is to be said.
    const body = req.pipe(new PassThrough());
    req.once('close', () => {
      if (!req.complete) body.destroy(new Error('the runner went away'));
    });
    try {
      await keepShared(stateDirectory, digest, body, sharedOutputBytes);
    } catch (error) {
      // The rest is heard out, or the answer would be lost with the connection.
      req.unpipe(body).resume();
      if (!(error instanceof OutputTooLarge)) throw error;
      return refused({
        code: 'too-large',
        what: 'An output of a step',
        limitBytes: largestOf(sharedOutputBytes),
      });
    }
    return null;
  });
  serve(app, deps, roleRoutes.takeOutputRoute, async ({ params: { digest }, res }) => {
    const found = await findShared(stateDirectory, digest);
    if (found === null) return refused({ code: 'not-found', what: 'output', name: digest });
    res.writeHead(200, {
      'content-type': 'application/x-tar',
      'content-length': found.bytes,
      'cache-control': 'no-store',
    });
    // A runner that went away, or a disk that fails midway, cuts the connection: the length tells.
    await pipeline(createReadStream(found.path), res).catch((err: unknown) =>
      deps.log.warn({ err, digest }, 'an output was not sent whole'),
    );
    return undefined;
  });
}
