import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import type { Readable, Writable } from 'node:stream';
import type { Logger } from 'pino';
import type { Limits } from '../config.ts';
import { type ControlGroup, makeControlGroup } from './control-group.ts';
import { descriptors, firstMounted, listed } from './handed-down.ts';
import { makeWayOut, type WayOut } from './network.ts';
import { keepReady, type Perishable } from './ready-pool.ts';
import type { Slot } from './slot.ts';

/** A process that waits under the limits of a build for the command that it becomes. */
export interface Anteroom extends Perishable {
  readonly child: ChildProcess;
  /** Null where the machine offers no control groups. */
  readonly group: ControlGroup | null;
  /**
   * Tells it what to become: a program and its arguments, and which descriptors of this process it opens first, to have
   * them as `firstMounted` and those after it.
   */
  readonly become: (command: readonly string[], opened?: readonly number[]) => void;
}

/** What one command behind the walls was given that was made before it came. */
export interface Entered extends Pick<Anteroom, 'child' | 'group' | 'become'> {
  /** A network with a way out; null where it asks for none, or must make its own. */
  readonly way: WayOut | null;
  readonly close: () => Promise<void>;
}

/** Keeps what commands behind the walls need ready for them. */
export interface Anterooms {
  /** Throws when a command cannot be let in. */
  readonly enter: (slot: Slot, network: 'none' | 'out') => Promise<Entered>;
  readonly stop: () => Promise<void>;
}

/**
 * Keeps for each slot a process that waits, and a way out. The kernel takes 10 to 20 ms to let a process into
 * a control group when none was let in shortly before, and as long to make a network that leads out.
 */
export function openAnterooms(slots: readonly Slot[], limits: Limits, log: Logger): Anterooms {
  const failed = (err: unknown): void => log.warn({ err }, 'nothing was made ready for a step');
  // Only root can make a network that a build of another uid is started in.
  const areRoot = slots.every((slot) => slot.uid !== null);
  const ways = areRoot ? keepReady(slots.length, makeWayOut, failed) : null;
  const rooms = new Map(
    slots.map((slot) => [slot.directory, keepReady(1, () => makeAnteroom(slot, limits), failed)]),
  );
  return {
    enter: async (slot, network) => {
      const { close, ...room } = await (rooms.get(slot.directory)?.take() ??
        makeAnteroom(slot, limits));
      try {
        const way = network === 'out' && ways !== null ? await ways.take() : null;
        return {
          ...room,
          way,
          close: async () => {
            await Promise.all([way?.close(), close()]);
          },
        };
      } catch (error) {
        await close();
        throw error;
      }
    },
    stop: async () => {
      await Promise.all([ways?.stop(), ...[...rooms.values()].map((pool) => pool.stop())]);
    },
  };
}

const { told } = descriptors;

/**
 * Limits of a build, for the shell that waits: they hold for whatever it becomes, and cost nothing then. They bind the uid
 * that it drops to, not root. Source: bash(1), ulimit; setrlimit(2).
 */
function limitsOf({ processes, memoryBytes, diskBytes }: Limits): string {
  return [
    // The control group refuses first and counts it; this holds where there is none.
    `-u ${processes + 16}`,
    // RLIMIT_AS would break Node, which reserves far more address space than it uses.
    `-d ${Math.ceil(memoryBytes / 1024)}`,
    `-f ${Math.ceil(diskBytes / 1024)}`,
    '-n 16384',
    '-c 0',
  ]
    .map((limit) => `ulimit ${limit} || exit`)
    .join('\n');
}

async function makeAnteroom(slot: Slot, limits: Limits): Promise<Anteroom> {
  const group = await makeControlGroup(`${slot.name}-${randomUUID()}`, limits);
  // When the runner is killed its end closes, nothing is told, and the process ends.
  // What it opens is what this process holds, not what a path leads to by then: `$PPID` is this process.
  const script = `${limitsOf(limits)}
mapfile -d '' -t command <&${told}; exec ${told}<&-
for ((place = 0; place < command[0]; place++)); do eval "exec $((${firstMounted} + place))</proc/$PPID/fd/\${command[place + 1]}" || exit; done
exec "\${command[@]:command[0] + 1}"`;
  const child = spawn('/bin/bash', ['--norc', '-c', script], {
    stdio: Array.from({ length: told + 1 }, () => 'pipe' as const),
    env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin' },
    detached: true,
  });
  // One that ends before it has heard all: how it ended is the reason given.
  for (const stream of child.stdio) stream?.on('error', () => undefined);
  const hasEnded = (): boolean => child.exitCode !== null || child.signalCode !== null;
  const close = async (): Promise<void> => {
    const exited = hasEnded() ? null : once(child, 'exit');
    if (exited !== null) killGroup(child);
    await exited;
    await group?.remove();
  };
  try {
    await once(child, 'spawn');
    if (child.pid !== undefined) await group?.add(child.pid);
  } catch (error) {
    await group?.remove();
    throw error;
  }
  return {
    child,
    group,
    become: (command, opened = []) => {
      say(child, told, listed([opened.length, ...opened, ...command].map(String)));
    },
    isGood: () => !hasEnded(),
    close,
  };
}

/** Node types five descriptors; a child spawned with more has them all the same. */
export function pipeOf(
  child: ChildProcess,
  descriptor: number,
): Readable | Writable | null | undefined {
  const all: readonly (Readable | Writable | null | undefined)[] = child.stdio;
  return all[descriptor];
}

/** Writes all that a descriptor of a process is to hear. */
export function say(child: ChildProcess, descriptor: number, text: string | Uint8Array): void {
  const stream = pipeOf(child, descriptor);
  if (stream === null || stream === undefined || !('end' in stream)) return;
  stream.end(text);
}

/** Kills a process and all of its group. */
export function killGroup(child: ChildProcess): void {
  if (child.pid === undefined) return;
  try {
    process.kill(-child.pid, 'SIGKILL');
  } catch (error) {
    if (!(error instanceof Error && 'code' in error && error.code === 'ESRCH')) throw error;
  }
}
