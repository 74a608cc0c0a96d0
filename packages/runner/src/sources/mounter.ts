import { type ChildProcess, spawn } from 'node:child_process';
import type { Socket } from 'node:net';

/** Reads two lines, mounts or takes a mount away, and answers with one, until its input ends. */
const script = `while IFS= read -r options && IFS= read -r at; do
  if [ "$options" = away ]; then
    if why=$(umount --lazy -- "$at" 2>&1); then echo ok; else echo $why; fi
  elif why=$(mount -t overlay overlay -o "$options" -- "$at" 2>&1); then echo ok; else echo $why; fi
done`;

interface Mounter {
  readonly child: ChildProcess;
  readonly open: ((answer: string | null) => void)[];
}

let mounter: Mounter | null = null;

/**
 * Mounts an overlay of the kernel. Asked of a small shell that stays: a process made by the runner itself
 * takes 5 ms, of which its event loop stands still for half. Throws with what mount said.
 */
export function mountOverlay(options: string, at: string): Promise<void> {
  return ask(options, at);
}

/** Takes a mount away, lazily: what still reads there for a moment does not keep a build from ending. */
export function unmount(at: string): Promise<void> {
  return ask('away', at);
}

async function ask(options: string, at: string): Promise<void> {
  if (/\n/.test(options + at)) throw new Error(`${at} has a line break in its name`);
  mounter ??= openMounter();
  const { child, open } = mounter;
  const answer = await new Promise<string | null>((resolve) => {
    open.push(resolve);
    hold(child, true);
    child.stdin?.write(`${options}\n${at}\n`);
  });
  if (answer === null) throw new Error('the shell that mounts has ended');
  if (answer !== 'ok') throw new Error(answer || 'mount failed without a word');
}

function openMounter(): Mounter {
  const child = spawn('/bin/sh', ['-f', '-c', script], {
    env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin', LC_ALL: 'C' },
    stdio: ['pipe', 'pipe', 'ignore'],
  });
  const made: Mounter = { child, open: [] };
  let held = '';
  child.stdout.on('data', (chunk: Buffer) => {
    const lines = (held + chunk.toString()).split('\n');
    held = lines.pop() ?? '';
    for (const line of lines) made.open.shift()?.(line);
    if (made.open.length === 0) hold(child, false);
  });
  child.stdin.on('error', () => undefined); // Its end is heard of below.
  const end = (): void => {
    if (mounter === made) mounter = null;
    for (const resolve of made.open.splice(0)) resolve(null);
  };
  child.once('error', end).once('close', end);
  hold(child, false);
  return made;
}

/** Whether it keeps the runner alive: only while an answer is awaited. */
function hold(child: ChildProcess, isAwaited: boolean): void {
  for (const one of [child, child.stdin as Socket, child.stdout as Socket]) {
    if (isAwaited) one.ref();
    else one.unref();
  }
}
