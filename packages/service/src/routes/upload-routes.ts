import { roleRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import { storeOf, storeStream, WrongBytes } from '../artifacts/blob-store.ts';
import { openUpload, requireUpload } from '../artifacts/upload-rows.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { serve } from '../http/serve-route.ts';

/** One file of a site; the limits of builds are the runner's, this one keeps a stolen credential from filling the disk at once. */
const largestBlob = 2 ** 31;

/** Serves upload sessions: opening one, and taking the bytes of runners that do not share the store. */
export function serveUploads(app: Express, deps: Deps): void {
  serve(app, deps, roleRoutes.openUploadRoute, async ({ attempt }) => {
    return { upload: await openUpload(deps, attempt) };
  });
  serve(app, deps, roleRoutes.uploadBlobRoute, async ({ params, req, attempt }) => {
    const { upload, digest } = params;
    await requireUpload(deps, attempt, upload);
    try {
      await storeStream(storeOf(deps.config.stateDirectory), req, digest, largestBlob);
    } catch (error) {
      if (error instanceof WrongBytes) return refuseBytes(digest, error.message);
      throw error;
    }
    return null;
  });
}

function refuseBytes(path: string, message: string): never {
  return refused({
    code: 'invalid-request',
    faults: [{ path, message, line: null, column: null }],
  });
}
