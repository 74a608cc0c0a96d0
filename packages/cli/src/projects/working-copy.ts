import { readFile, rename, stat, writeFile } from 'node:fs/promises';
import { dirname, isAbsolute, join, resolve } from 'node:path';
import { z } from 'zod';
import { Misuse } from '../command.ts';
import { noneIfAbsent } from '../none-if-absent.ts';
import { jsonOf } from '../people/kept-sign-in.ts';

/** What a working copy knows of the service that builds it. A token is only there if somebody put it there. */
const schema = z.object({
  address: z.string(),
  project: z.string().optional(),
  token: z.string().optional(),
});

/** A working copy's file, as read. */
export interface WorkingCopySettings extends z.output<typeof schema> {
  readonly path: string;
}

/**
 * The file lies in the folder that Git keeps for itself: a clone never brings one, so no repository can say where its
 * reader's commands and token go.
 */
const fileName = 'vaquero.json';

/** What the working copy around a folder says; undefined outside of one, and where it says nothing. */
export async function workingCopySettings(
  folder: string,
): Promise<WorkingCopySettings | undefined> {
  const git = await gitFolder(resolve(folder));
  if (git === undefined) return undefined;
  const path = join(git, fileName);
  const text = await readFile(path, 'utf8').catch(noneIfAbsent);
  if (text === undefined) return undefined;
  const { uid } = await stat(path);
  // A folder above may be somebody else's, as in /tmp.
  if (uid !== process.getuid?.() && uid !== 0)
    throw new Misuse(
      `${path} belongs to somebody else, so it is not followed: take it away, or work elsewhere.`,
    );
  const read = schema.safeParse(jsonOf(text));
  if (!read.success)
    throw new Misuse(
      `${path} is not in order: it holds {"address": "…"} as JSON. Mend it, or take it away.`,
    );
  return { ...read.data, path };
}

/** Writes what a working copy is to know; undefined outside of one, else the file. */
export async function keepInWorkingCopy(
  folder: string,
  settings: { readonly address: string; readonly project: string },
): Promise<string | undefined> {
  const git = await gitFolder(resolve(folder));
  if (git === undefined) return undefined;
  const path = join(git, fileName);
  await writeFile(`${path}.new`, `${JSON.stringify(settings)}\n`, { mode: 0o600 });
  await rename(`${path}.new`, path);
  return path;
}

/** The folder that Git keeps for a working copy, looked for upwards. A worktree names it in a file. */
async function gitFolder(folder: string): Promise<string | undefined> {
  const path = join(folder, '.git');
  const found = await stat(path).catch(noneIfAbsent);
  if (found?.isDirectory() === true) return path;
  if (found?.isFile() === true) {
    const [, place] = /^gitdir: (.+)$/m.exec(await readFile(path, 'utf8')) ?? [];
    if (place !== undefined) return isAbsolute(place) ? place : join(folder, place);
  }
  const above = dirname(folder);
  return above === folder ? undefined : gitFolder(above);
}
