import { chmod, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { z } from 'zod';
import { Misuse } from '../command.ts';
import { noneIfAbsent } from '../none-if-absent.ts';

const schema = z.object({ address: z.string(), token: z.string(), name: z.string() });
type SignIn = z.output<typeof schema>;

/** Where the sign-in is kept. Source: XDG Base Directory Specification. */
export function sessionPath(environment: Readonly<Record<string, string | undefined>>): string {
  const home = environment.XDG_CONFIG_HOME ?? join(environment.HOME ?? homedir(), '.config');
  return join(home, 'vaquero', 'session.json');
}

/** The kept sign-in; undefined when there is none. Throws Misuse when the file is not ours to understand. */
export async function keptSignIn(path: string): Promise<SignIn | undefined> {
  const text = await readFile(path, 'utf8').catch(noneIfAbsent);
  if (text === undefined) return undefined;
  const read = schema.safeParse(jsonOf(text));
  if (!read.success)
    throw new Misuse(`${path} is no sign-in of Vaquero: take the file away and sign in again.`);
  return read.data;
}

/** A text as JSON; undefined when it is none, which no schema of ours accepts. */
export function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** Keeps a sign-in, readable by its owner alone. */
export async function keepSignIn(path: string, session: SignIn): Promise<void> {
  await mkdir(dirname(path), { recursive: true, mode: 0o700 });
  await writeFile(path, `${JSON.stringify(session)}\n`, { mode: 0o600 });
  await chmod(path, 0o600);
}

/** Forgets the sign-in. */
export async function forgetSignIn(path: string): Promise<void> {
  await rm(path, { force: true });
}
