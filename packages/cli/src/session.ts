import { chmod, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { type Client, makeClient } from '@vaquero/contracts';
import { z } from 'zod';

const schema = z.object({ address: z.string(), token: z.string(), name: z.string() });
export type Session = z.output<typeof schema>;

/** Where the sign-in is kept. Source: XDG Base Directory Specification. */
export function sessionPath(environment: Readonly<Record<string, string | undefined>>): string {
  const home = environment.XDG_CONFIG_HOME ?? join(environment.HOME ?? homedir(), '.config');
  return join(home, 'vaquero', 'session.json');
}

/** The kept sign-in; undefined when there is none. Throws when the file is not ours to understand. */
export async function readSession(path: string): Promise<Session | undefined> {
  const text = await readFile(path, 'utf8').catch(absent); // Not signed in yet.
  return text === undefined ? undefined : schema.parse(JSON.parse(text));
}

/** Takes a file that is not there for none; a file that cannot be read is a failure all the same. */
function absent(error: unknown): undefined {
  if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return undefined;
  throw error;
}

/** Keeps a sign-in, readable by its owner alone. */
export async function keepSession(path: string, session: Session): Promise<void> {
  await mkdir(dirname(path), { recursive: true, mode: 0o700 });
  await writeFile(path, `${JSON.stringify(session)}\n`, { mode: 0o600 });
  await chmod(path, 0o600);
}

/** Forgets the sign-in. */
export async function forgetSession(path: string): Promise<void> {
  await rm(path, { force: true });
}

/** A client with a token, or without one. */
export function clientFor(address: string, token: string | undefined): Client {
  return makeClient({
    address: address.replace(/\/$/, ''),
    headers: {
      'vaquero-client': 'cli',
      ...(token === undefined ? {} : { authorization: `Bearer ${token}` }),
    },
  });
}
