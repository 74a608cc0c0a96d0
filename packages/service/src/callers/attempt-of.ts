import { isId } from '@vaquero/core';
import type { Request } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { type AttemptRow, runningAttempt } from '../builds/attempt-rows.ts';

/** The running attempt that a call of a runner is for, by the attempt's own credential. Refuses: attempt-over. */
export async function attemptOf(deps: Deps, req: Request): Promise<AttemptRow> {
  const id = String(req.params.attempt ?? '');
  const credential = /^Bearer (\S+)$/i.exec(req.headers.authorization ?? '')?.[1] ?? '';
  const attempt = isId(id)
    ? await runningAttempt(deps.db, id, sha256(credential), false)
    : undefined;
  return attempt ?? refused({ code: 'attempt-over', attempt: id });
}
