import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import type { StepEnd } from '@vaquero/core';
import type { Ears, Ended } from './run-behind-walls.ts';
import type { Behind } from './wall-arguments.ts';

/**
 * Runs a command with the runner's own rights. Only for an operator who wrote out the danger: such a
 * build can read and change the machine. Time and log are still bounded.
 */
export async function runWithoutWalls(
  { workplace, limits, environment, command, sight }: Behind,
  ears: Ears,
): Promise<Ended> {
  const [program = '', ...args] = command;
  const child = spawn(program, args, {
    // The same folder of the tree that it would have had behind the walls.
    cwd: join(workplace.tree, sight.folder.replace(/^\/build\/?/, '')),
    stdio: ['pipe', 'pipe', 'pipe'],
    detached: true,
    env: { ...environment, HOME: workplace.home, TMPDIR: workplace.temporary },
  });
  let stopped: StepEnd | null = null;
  const stop = (end: StepEnd): void => {
    stopped ??= end;
    if (child.pid !== undefined) process.kill(-child.pid, 'SIGKILL');
  };
  const timer = setTimeout(
    () => stop({ kind: 'time-limit', limitMs: limits.stepMs }),
    limits.stepMs,
  );
  const onAbort = (): void => stop({ kind: 'signal', signal: 'SIGTERM' });
  ears.signal.addEventListener('abort', onAbort, { once: true });
  if (ears.signal.aborted) onAbort();
  for (const stream of [child.stdout, child.stderr]) {
    stream.on('data', (bytes: Buffer) => {
      if (!ears.hear(bytes)) stop({ kind: 'log-limit', limitBytes: limits.logBytes });
    });
  }
  child.stdin.on('error', () => undefined); // A command that stops reading early is judged by how it ends.
  if (ears.input === undefined) child.stdin.end();
  else ears.input.pipe(child.stdin);
  const [code, signal] = (await once(child, 'close')) as [number | null, NodeJS.Signals | null];
  clearTimeout(timer);
  ears.signal.removeEventListener('abort', onAbort);
  if (stopped !== null) return { ok: false, end: stopped, sawProcessLimit: false };
  if (code === 0) return { ok: true, sawProcessLimit: false };
  return {
    ok: false,
    end: signal === null ? { kind: 'exit', exitCode: code ?? 1 } : { kind: 'signal', signal },
    sawProcessLimit: false,
  };
}
