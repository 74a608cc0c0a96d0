import type { Instant } from '@vaquero/core';
import { and, eq, isNotNull, isNull, lt } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { AttemptRow } from '../builds/attempt-rows.ts';
import type { Db, Tx } from '../database/pool.ts';
import { attempts, uploads } from '../database/tables.ts';

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

/** Whether a runner that still builds has an upload open. */
export async function isStoring(deps: Deps): Promise<boolean> {
  const [row] = await deps.db
    .select({ id: uploads.id })
    .from(uploads)
    .innerJoin(attempts, eq(attempts.id, uploads.attemptId))
    .where(and(isNull(uploads.closedAt), eq(attempts.state, 'running')))
    .limit(1);
  return row !== undefined;
}

/** Closes what an attempt opened: it is over with it. */
export async function closeUploads(tx: Tx, attemptId: string, at: Instant): Promise<void> {
  await tx
    .update(uploads)
    .set({ closedAt: at })
    .where(and(eq(uploads.attemptId, attemptId), isNull(uploads.closedAt)));
}

/** Forgets uploads that were closed before an instant. */
export async function forgetUploads(db: Db, before: number): Promise<void> {
  await db.delete(uploads).where(and(isNotNull(uploads.closedAt), lt(uploads.closedAt, before)));
}
