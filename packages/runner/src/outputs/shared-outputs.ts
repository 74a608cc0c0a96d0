import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { chownSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { type Client, pathOf, roleRoutes } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import type { Logger } from 'pino';
import type { BuildAt } from '../builds/build-at.ts';
import { unpackInto } from '../sources/unpack.ts';
import type { Output } from './output-store.ts';

/** Hands outputs of steps to runners of other machines, and takes what they made. */
export interface SharedOutputs {
  /** Gives an output to whoever may need it, behind everything else; a failure only means that others make it anew. */
  readonly give: (output: Output) => void;
  /** Brings an output that another runner made; null when it is not to be had. */
  readonly take: (at: BuildAt, digest: Digest) => Promise<Output | null>;
  readonly stop: () => Promise<void>;
}

/** Outputs that wait to be given; beyond these the oldest is forgotten. */
const mostWaiting = 32;

/** Makes what shares outputs by the api, with the runner's own token. */
export function shareOutputs(client: Client, log: Logger): SharedOutputs {
  const stop = new AbortController();
  const { signal } = stop;
  const waiting: Output[] = [];
  let giving: Promise<void> | null = null;

  const giveAll = async (): Promise<void> => {
    for (let output = waiting.shift(); output !== undefined; output = waiting.shift()) {
      const { digest } = output;
      await giveOne(client, output, signal).catch((err: unknown) => {
        if (!signal.aborted) log.warn({ err, digest }, 'an output could not be given to others');
      });
    }
    giving = null;
  };

  return {
    give: (output) => {
      if (signal.aborted) return;
      waiting.push(output);
      if (waiting.length > mostWaiting) waiting.shift();
      giving ??= giveAll();
    },
    take: async (at, digest) => {
      try {
        return await takeOne(client, at, digest);
      } catch (err) {
        if (at.signal.aborted) throw err;
        log.warn({ err, digest }, 'an output of another runner could not be taken');
        return null;
      }
    },
    stop: async () => {
      stop.abort();
      await giving;
    },
  };
}

async function giveOne(client: Client, output: Output, signal: AbortSignal): Promise<void> {
  const params = { digest: output.digest };
  const body = { bytes: output.bytes };
  const { wanted } = await client.call(roleRoutes.outputWantedRoute, { params, body, signal });
  if (!wanted) return;
  // Sealed: nobody can change it while it is read, and it holds nothing but folders, files and links.
  const tar = spawn(
    'tar',
    ['-c', '--format=pax', '--numeric-owner', '-f', '-', '-C', output.root, '.'],
    {
      env: { PATH: '/usr/bin:/bin', LC_ALL: 'C' },
      stdio: ['ignore', 'pipe', 'ignore'],
    },
  );
  const ended = once(tar, 'close');
  try {
    const response = await fetch(`${client.address}${pathOf(roleRoutes.giveOutputRoute, params)}`, {
      method: 'PUT',
      headers: client.headers,
      body: Readable.toWeb(checkedEnd(tar.stdout, ended)) as ReadableStream<Uint8Array>,
      duplex: 'half',
      signal,
    } as RequestInit);
    if (!response.ok) throw new Error(`the api answered with HTTP ${response.status}`);
  } finally {
    tar.kill();
  }
}

/** What a program says; it fails unless the program ended well, so that half of it is not taken for all. */
function checkedEnd(out: Readable, ended: Promise<unknown[]>): Readable {
  return Readable.from(
    (async function* () {
      yield* out;
      const [code] = await ended;
      if (code !== 0) throw new Error(`tar ended with ${String(code)}`);
    })(),
    { objectMode: false },
  );
}

async function takeOne(client: Client, at: BuildAt, digest: Digest): Promise<Output | null> {
  const response = await fetch(
    `${client.address}${pathOf(roleRoutes.takeOutputRoute, { digest })}`,
    { headers: client.headers, signal: at.signal },
  );
  if (response.status === 404) {
    await response.body?.cancel();
    return null;
  }
  if (!response.ok || response.body === null)
    throw new Error(`the api answered with HTTP ${response.status}`);
  const folder = join(at.workplace.directory, `brought-${digest.slice(0, 12)}`);
  mkdirSync(folder, { mode: 0o700 });
  if (at.slot.uid !== null) chownSync(folder, at.slot.uid, at.slot.uid);
  await unpackInto(at, folder, Readable.fromWeb(response.body as ReadableStream));
  // Named anew by what has come: whatever a runner or a disk did to it on the way, only the same bytes are used.
  const output = await at.outputs.take(folder);
  if (output.digest === digest) return output;
  throw new Error(`what came is ${output.digest}`);
}
