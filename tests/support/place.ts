import { randomInt } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestContext } from 'node:test';
import {
  copiedDatabase,
  emptyDatabase,
} from '../../packages/service/src/database/database-for-tests.ts';

const endings = new WeakMap<TestContext, (() => unknown)[]>();

/** Does something when a test has ended, what was begun last first: a service stops before its folder goes. */
export function atEnd(t: TestContext, end: () => unknown): void {
  const known = endings.get(t);
  if (known !== undefined) {
    known.push(end);
    return;
  }
  const all = [end];
  endings.set(t, all);
  t.after(async () => {
    for (const one of all.toReversed()) await one();
  });
}

/** A folder of a test's own, removed with it; open enough for builds under other uids. */
export function temporaryFolder(t: TestContext): string {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-test-'));
  chmodSync(folder, 0o711);
  atEnd(t, () => rmSync(folder, { recursive: true, force: true, maxRetries: 5, retryDelay: 50 }));
  return folder;
}

/** A database of a test's own on the tests' server, with this version's schema or empty; it goes with all others at the end. */
export async function ownDatabase({ empty = false } = {}): Promise<string> {
  return empty ? emptyDatabase() : copiedDatabase();
}

/**
 * A port of the loopback that nobody uses at the moment, below those that the kernel gives to connections (ip(7),
 * ip_local_port_range): one of the many that tests beside this one open would take it before it is listened on.
 */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = randomInt(10_000, 32_000);
    if (await isFree(port)) return port;
  }
}

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', (error) =>
      'code' in error && error.code === 'EADDRINUSE' ? resolve(false) : reject(error),
    );
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}

/** Waits until `look` gives a value; its failure says what was seen last. */
export async function until<T>(
  what: string,
  look: () => Promise<T | undefined | null | false> | T | undefined | null | false,
  { withinMs = 20_000, seen }: { withinMs?: number; seen?: () => unknown } = {},
): Promise<T> {
  const end = performance.now() + withinMs;
  let last: unknown;
  for (;;) {
    try {
      const value = await look();
      if (value !== undefined && value !== null && value !== false) return value;
      last = value;
    } catch (error) {
      last = error;
    }
    if (performance.now() > end) {
      throw new Error(
        `not within ${withinMs} ms: ${what}; last seen: ${JSON.stringify((await seen?.()) ?? last, null, 1) ?? String(last)} ${last instanceof Error ? last.stack : ''}`,
      );
    }
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

let uidsGiven = 0;

/** Uids for the builds of one runner: no other test that runs beside this one has any of them; a file has 2,000 in all. */
export function uidsOfTests(count = 40): string {
  const first = 100_000 + (process.pid % 4000) * 2000 + uidsGiven;
  uidsGiven += count;
  return `${first}-${first + count - 1}`;
}
