import { and, eq, isNull } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { AttemptRow } from '../builds/attempt-rows.ts';
import { uploads } from '../database/tables.ts';

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
