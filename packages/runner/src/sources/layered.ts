import { chownSync, mkdirSync } from 'node:fs';
import { mkdir, readFile } from 'node:fs/promises';
import { join, sep } from 'node:path';
import { mountOverlay, unmount } from './mounter.ts';

/** A folder that shows another one and takes what is written to it apart: the other stays as it was. */
export interface Layered {
  /** Where what was written lies, by the same paths. */
  readonly written: string;
  readonly close: () => Promise<void>;
}

/** A folder that shows another one, that one, and where what was written to the first lies by the same paths; null: nothing may be. */
export interface Layer {
  readonly shown: string;
  readonly below: string;
  readonly written: string | null;
}

/**
 * Shows `below` at `at`, which exists, with what is written going to folders beside it that the uid owns.
 * Source: the kernel's overlay file system. Throws when the machine does not offer it.
 */
export async function openLayered(
  below: string,
  at: string,
  beside: string,
  uid: number | null,
): Promise<Layered> {
  const [written, work] = [join(beside, 'written'), join(beside, 'work')];
  mkdirSync(beside, { mode: 0o711 });
  for (const path of [written, work]) {
    mkdirSync(path, { mode: 0o700 });
    if (uid !== null) chownSync(path, uid, uid);
  }
  // What lies in `written` is then whole: no file is there as a mark alone, no folder as a pointer to another.
  const options = `lowerdir=${below},upperdir=${written},workdir=${work},metacopy=off,redirect_dir=nofollow`;
  await mountOverlay(options, at);
  return { written, close: () => unmount(at) };
}

/** Whether trees can be shown in layers here; tried, because it hangs on the kernel, the rights and the file system. */
export async function canLayer(directory: string): Promise<boolean> {
  if (process.getuid?.() !== 0 || /[,:\\]/.test(directory)) return false;
  const [below, at] = [join(directory, 'below'), join(directory, 'at')];
  try {
    for (const path of [directory, below, at]) await mkdir(path, { recursive: true });
    const layered = await openLayered(below, at, join(directory, 'beside'), null);
    await layered.close();
    return true;
  } catch {
    // No such file system, or no right to mount: builds then unpack their whole tree each time.
    return false;
  }
}

/** Takes away what a runner that was killed left mounted below a folder. Format: proc_pid_mountinfo(5). */
export async function unmountBelow(directory: string): Promise<void> {
  const text = await readFile('/proc/self/mountinfo', 'utf8');
  const points = text
    .split('\n')
    .map((row) => (row.split(' ')[4] ?? '').replace(/\\040/g, ' '))
    .filter((point) => point.startsWith(directory + sep));
  for (const point of points.toReversed()) await unmount(point);
}
