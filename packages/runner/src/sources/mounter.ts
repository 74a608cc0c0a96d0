import { type ChildProcess, spawn } from 'node:child_process';
import type { Socket } from 'node:net';
import { refusedCalls } from '@vaquero/core';

/**
 * Reads two lines, mounts or takes a mount away, and answers with one, until its input ends. Source: mount(2), umount2(2);
 * 2 is MNT_DETACH.
 */
const script = `$| = 1; my ($mount, $umount) = map { $_ + 0 } @ARGV; my $type = 'overlay';
while (defined(my $options = <STDIN>) and defined(my $at = <STDIN>)) {
  chomp($options, $at);
  my $end = $options eq 'away' ? syscall($umount, $at, 2) : syscall($mount, $type, $at, $type, 0, $options);
  print $end == 0 ? "ok\\n" : "$!\\n";
}`;

/** The numbers of the calls that it makes, by this machine's processor. */
function callNumbers(): readonly string[] {
  const { arch } = process;
  if (arch !== 'x64' && arch !== 'arm64') throw new Error(`the calls of ${arch} are not known`);
  return ['mount', 'umount2'].map((name) =>
    String(refusedCalls.find((call) => call.name === name)?.[arch]),
  );
}

interface Mounter {
  readonly child: ChildProcess;
  readonly open: ((answer: string | null) => void)[];
}

let mounter: Mounter | null = null;

/**
 * Mounts an overlay of the kernel. Asked of a small program that stays and makes the call itself (Perl is on every
 * Debian): half a millisecond, where a process for each takes five. Throws with what the kernel said.
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
  if (answer === null) throw new Error('the program that mounts has ended');
  if (answer !== 'ok') throw new Error(answer || 'mount failed without a word');
}

function openMounter(): Mounter {
  const child = spawn('/usr/bin/perl', ['-e', script, ...callNumbers()], {
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
