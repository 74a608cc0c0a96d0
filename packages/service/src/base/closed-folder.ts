import { chmod, mkdir } from 'node:fs/promises';

/** Makes a folder that nobody but the service looks into; one that is there already is closed. */
export async function makeClosed(path: string): Promise<void> {
  await mkdir(path, { recursive: true, mode: 0o700 });
  await chmod(path, 0o700);
}
