import { roleRoutes } from '@vaquero/contracts';
import { and, eq, isNull } from 'drizzle-orm';
import type { Express } from 'express';
import { storeOf, storeStream, WrongBytes } from '../artifacts/blob-store.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { AttemptRow } from '../builds/attempt-rows.ts';
import { uploads } from '../database/tables.ts';
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

/** Opens an upload: from now on until it is closed, what is found in the store is not swept away. */
export async function openUpload(deps: Deps, attempt: AttemptRow): Promise<string> {
  const id = deps.newId();
  await deps.db.insert(uploads).values({ id, attemptId: attempt.id, openedAt: deps.clock() });
  return id;
}

/** Refuses (attempt-over) what relies on an upload that is not the attempt's own, or was closed. */
export async function requireUpload(
  deps: Deps,
  attempt: AttemptRow,
  upload: string,
): Promise<void> {
  const [row] = await deps.db
    .select()
    .from(uploads)
    .where(
      and(eq(uploads.id, upload), eq(uploads.attemptId, attempt.id), isNull(uploads.closedAt)),
    );
  if (row === undefined) refused({ code: 'attempt-over', attempt: attempt.id });
}

function refuseBytes(path: string, message: string): never {
  return refused({
    code: 'invalid-request',
    faults: [{ path, message, line: null, column: null }],
  });
}
