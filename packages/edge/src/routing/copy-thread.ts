import { closeSync, fsyncSync, openSync, renameSync, writeSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';

/** A copy to be written, and whether it was: null, or why not. */
export interface CopyTask {
  readonly path: string;
  readonly text: string;
}
export type CopyReply = string | null;

/** Under another name first, and synced, so that a crash leaves the old copy or the new one. */
function writeCopy({ path, text }: CopyTask): void {
  const file = openSync(`${path}.new`, 'w');
  try {
    writeSync(file, text);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  renameSync(`${path}.new`, path);
}

parentPort?.on('message', (task: CopyTask) => {
  try {
    writeCopy(task);
    parentPort?.postMessage(null satisfies CopyReply);
  } catch (error) {
    parentPort?.postMessage(
      (error instanceof Error ? error.message : String(error)) satisfies CopyReply,
    );
  }
});
