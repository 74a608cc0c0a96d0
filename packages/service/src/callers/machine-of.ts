import type { Request } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { machineByToken } from '../machines/machine-rows.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** Edges that called lately, by the hashes of their tokens. */
    readonly knownEdges: Map<
      string,
      { readonly machine: { readonly id: string; readonly name: string }; readonly until: number }
    >;
  }
}

export interface Machine {
  readonly id: string;
  readonly name: string;
}

const rememberedMs = 10_000;

/**
 * The runner or edge that calls, by its token. Edges are remembered for some seconds, since each move waits
 * for their answers; a runner's token can be taken back at any moment. Refuses: not-signed-in.
 */
export async function machineOf(
  deps: Deps,
  req: Request,
  role: 'runner' | 'edge',
): Promise<Machine> {
  const token = /^Bearer (\S+)$/i.exec(req.headers.authorization ?? '')?.[1];
  if (token === undefined) return refused({ code: 'not-signed-in', tried: 'nothing' });
  const hash = sha256(token);
  const known = deps.knownEdges.get(hash);
  if (role === 'edge' && known !== undefined && performance.now() < known.until)
    return known.machine;
  const machine =
    (await machineByToken(deps.db, role, hash)) ??
    refused({ code: 'not-signed-in', tried: 'token' });
  if (role === 'edge')
    deps.knownEdges.set(hash, { machine, until: performance.now() + rememberedMs });
  return machine;
}
