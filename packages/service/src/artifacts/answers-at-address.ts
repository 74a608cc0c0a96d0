import { createHash } from 'node:crypto';
import { request } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { type Digest, hostLabelOf, type TriedAddress } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { addressOf } from '../projects/addresses.ts';
import { publishTable } from '../routing/publish-table.ts';

/** Whether an artifact answered, where, and why not. */
export type Looked =
  | { readonly ok: true; readonly address: string }
  | { readonly ok: false; readonly address: string; readonly why: string };

const waitForEdgeMs = 15_000;

/**
 * Looks at an artifact at its own host, through an edge: the front page and a deep link of each page that stands in
 * for others must come with the right bytes.
 * Nothing names the artifact yet and nobody else sees it there: the look shows the edge the service's key.
 * An edge that is just starting is waited for.
 */
export async function answersAtItsAddress(
  deps: Deps,
  digest: Digest,
  tried: readonly TriedAddress[],
): Promise<Looked> {
  const host = `${hostLabelOf(digest)}.${deps.config.artifactsBase}`;
  const address = addressOf(host);
  const until = performance.now() + waitForEdgeMs;
  if ((await askAll(deps, host, tried)) === null) return { ok: true, address };
  for (;;) {
    // An edge that does not know the key yet gets it with the table.
    const revision = await publishTable(deps);
    await deps.edges.confirmed(revision, 2_000);
    const why = await askAll(deps, host, tried);
    if (why === null) return { ok: true, address };
    if (performance.now() > until) return { ok: false, address, why };
    await pause(250);
  }
}

async function askAll(
  deps: Deps,
  host: string,
  tried: readonly TriedAddress[],
): Promise<string | null> {
  const said = await Promise.all(tried.map((one) => askOnce(deps, host, one)));
  return said.find((why) => why !== null) ?? null;
}

function askOnce(
  deps: Deps,
  host: string,
  { address, path, digest }: TriedAddress,
): Promise<string | null> {
  return new Promise((resolve) => {
    const asking = request(
      {
        ...deps.config.edgeAddress,
        path: address,
        headers: { host, 'vaquero-look': deps.keys.looking },
        timeout: 5_000,
        agent: false,
      },
      (res) => {
        const hash = createHash('sha256');
        res.on('data', (chunk: Buffer) => hash.update(chunk));
        res.on('error', (error) => resolve(error.message));
        res.on('end', () => {
          if (res.statusCode !== 200) resolve(`the edge answered ${res.statusCode} for ${address}`);
          else resolve(hash.digest('hex') === digest ? null : `${path} came with other bytes`);
        });
      },
    );
    asking.on('timeout', () => asking.destroy(new Error('the edge did not answer within 5 s')));
    asking.on('error', (error: NodeJS.ErrnoException) =>
      resolve(error.code === 'ECONNREFUSED' ? 'no edge is running' : error.message),
    );
    asking.end();
  });
}
