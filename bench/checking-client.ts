import { fork } from 'node:child_process';
import { createHash } from 'node:crypto';
import { Agent, request } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';

const connections = 32;

/** Whom a checking client asks, and how often. */
interface Wanted {
  readonly port: number;
  readonly host: string;
  /** Null: as fast as it can. */
  readonly perSecond: number | null;
}

/** What a checking client saw. */
export interface Checked {
  readonly answers: number;
  readonly failed: number;
  readonly mixed: number;
  readonly perSecond: number;
}

/** A checking client under way. */
export interface Checking {
  readonly end: () => Promise<Checked>;
}

/**
 * Starts a client as a process of its own that keeps 32 connections busy at a rate and checks that a body is
 * always the one that its artifact had before. A process, because on the event loop of whoever times calls
 * it would be timed too.
 */
export function startChecking(wanted: Wanted): Checking {
  const child = fork(import.meta.filename, [JSON.stringify(wanted)]);
  const result = new Promise<Checked>((resolve, reject) => {
    child.once('message', (checked) => resolve(checked as Checked));
    child.once('exit', (code) => reject(new Error(`the checking client ended with ${code}`)));
  });
  return {
    end: () => {
      child.send('end');
      return result;
    },
  };
}

async function check({ port, host, perSecond }: Wanted, over: () => boolean): Promise<Checked> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  const bodies = new Map<string, string>();
  const begun = performance.now();
  const count = { answers: 0, failed: 0, mixed: 0 };
  const one = async (_: unknown, place: number): Promise<void> => {
    // Each connection keeps to its own beat and sleeps between: a client that polled its clock would take the
    // processor from what it measures.
    const beatMs = perSecond === null ? 0 : (connections / perSecond) * 1000;
    for (let turn = 0; !over(); turn += 1) {
      const dueInMs = begun + (turn + place / connections) * beatMs - performance.now();
      if (dueInMs > 1) await pause(dueInMs);
      count.answers += 1;
      const { status, artifact, hash } = await ask(port, host, agent).catch(() => ({
        status: 0,
        artifact: '',
        hash: '',
      }));
      if (status !== 200) count.failed += 1;
      else if ((bodies.get(artifact) ?? hash) !== hash) count.mixed += 1;
      else bodies.set(artifact, hash);
    }
  };
  await Promise.all(Array.from({ length: connections }, one));
  agent.destroy();
  return { ...count, perSecond: (count.answers / (performance.now() - begun)) * 1000 };
}

function ask(
  port: number,
  host: string,
  agent: Agent,
): Promise<{ status: number; artifact: string; hash: string }> {
  return new Promise((resolve, reject) => {
    const asking = request({ host: '127.0.0.1', port, agent, headers: { host } }, (res) => {
      const hash = createHash('sha256');
      res.on('data', (chunk: Buffer) => hash.update(chunk));
      res.on('error', reject);
      res.on('end', () =>
        resolve({
          status: res.statusCode ?? 0,
          artifact: String(res.headers['vaquero-artifact']),
          hash: hash.digest('hex'),
        }),
      );
    });
    asking.on('error', reject);
    asking.end();
  });
}

if (process.send !== undefined && process.argv[1] === import.meta.filename) {
  let isOver = false;
  process.once('message', () => {
    isOver = true;
  });
  // Whoever started it may have died: nothing would ever tell it to end.
  process.once('disconnect', () => process.exit());
  const wanted = JSON.parse(process.argv[2] ?? '') as Wanted;
  const checked = await check(wanted, () => isOver);
  process.send(checked);
  process.disconnect();
}
