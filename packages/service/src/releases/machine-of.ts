import type { Request } from 'express';
import { sha256 } from '../audit/record.ts';
import type { Deps } from '../deps.ts';
import { refused } from '../refused.ts';
import { machineByToken } from './edge-rows.ts';

/** The runner or edge that calls, by its token. Refuses: not-signed-in. */
export async function machineOf(
  deps: Deps,
  req: Request,
  role: 'runner' | 'edge',
): Promise<{ id: string; name: string }> {
  const token = /^Bearer (\S+)$/i.exec(req.headers.authorization ?? '')?.[1];
  if (token === undefined) return refused({ code: 'not-signed-in', tried: 'nothing' });
  return (
    (await machineByToken(deps.db, role, sha256(token))) ??
    refused({ code: 'not-signed-in', tried: 'token' })
  );
}
