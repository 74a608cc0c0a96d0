import { randomBytes, randomUUID } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { chmod, chown, mkdir, rename } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { RunnerConfig } from '../config.ts';
import type { Layer } from '../sources/layered.ts';

/** A place for one build at a time, which runs under a host uid of its project and circle there. */
export interface Slot {
  readonly number: number;
  /** No slot of another runner on this machine has it. */
  readonly name: string;
  /** Null when the runner is not root: the build then runs under the runner's own uid, still behind the walls. */
  readonly uid: number | null;
  readonly directory: string;
}

/** The folders of one attempt in its slot. */
export interface Workplace {
  readonly directory: string;
  readonly tree: string;
  readonly home: string;
  readonly temporary: string;
  /** Where the tree only shows what lies elsewhere, and where what is written to it lies. */
  readonly layer: Layer | null;
  /** Where steps write to a kept tree itself, the committed paths: their files are not to be taken from it. */
  readonly committed: ReadonlySet<string> | null;
}

/** The slots of a runner, each with a uid that is no build's, for trying whether the walls stand. */
export function slotsOf({ slots, stateDirectory, uids }: RunnerConfig): readonly Slot[] {
  const isRoot = process.getuid?.() === 0;
  return Array.from({ length: slots }, (_, number) => ({
    number,
    name: `slot-${isRoot ? uids.first : `user-${process.getuid?.()}`}-${number}`,
    uid: isRoot ? uids.first + number : null,
    directory: join(stateDirectory, 'slots', String(number)),
  }));
}

/**
 * Empties a slot: kills what still runs under its uid and puts aside, whole, what it left there. It is removed when
 * there is time: however deep or odd it is, it keeps nothing from starting.
 */
export async function clearSlot(slot: Slot, aside: string): Promise<void> {
  await killAll(slot);
  await mkdir(dirname(slot.directory), { recursive: true, mode: 0o711 });
  await mkdir(aside, { recursive: true, mode: 0o700 });
  await rename(slot.directory, join(aside, `slot-${randomUUID()}`)).catch(
    (error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOENT') throw error;
    },
  );
  await mkdir(slot.directory, { recursive: true, mode: 0o711 });
}

/** Makes the folders of an attempt, owned by the slot's uid. Their names show inside a build, and say nothing. */
export async function makeWorkplace(slot: Slot): Promise<Workplace> {
  const directory = join(slot.directory, shortName());
  await mkdir(directory, { recursive: true, mode: 0o711 });
  const workplace = {
    directory,
    tree: join(directory, 'tree'),
    home: join(directory, 'home'),
    temporary: join(directory, 'tmp'),
    layer: null,
    committed: null,
  };
  for (const path of [workplace.tree, workplace.home, workplace.temporary]) {
    await mkdir(path, { mode: 0o700 });
    if (slot.uid !== null) await chown(path, slot.uid, slot.uid);
    await chmod(path, 0o700);
  }
  return workplace;
}

/** A name that nothing else in a folder bears and that means nothing. */
export function shortName(): string {
  return randomBytes(5).toString('hex');
}

/** Pids of processes that run under a uid. One that has ended and only waits to be reaped runs no more. */
export function pidsOf(uid: number): readonly number[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => uidOf(pid) === uid);
}

/** Those of some uids under which something runs, found in one look at all processes. */
export function runningAmong(uids: readonly number[]): readonly number[] {
  if (uids.length === 0) return [];
  const running = new Set(
    readdirSync('/proc')
      .filter((name) => /^\d+$/.test(name))
      .map((pid) => uidOf(Number(pid))),
  );
  return uids.filter((uid) => running.has(uid));
}

function uidOf(pid: number): number | undefined {
  try {
    const status = readFileSync(`/proc/${pid}/status`, 'utf8');
    const uid = /^Uid:\s+(\d+)/m.exec(status)?.[1];
    return uid === undefined || /^State:\s+[ZX]/m.test(status) ? undefined : Number(uid);
  } catch {
    // The process ended between the listing and the reading: it is no longer anybody's.
    return undefined;
  }
}

/** Kills whatever runs under a slot's uid until nothing does. Throws when something survives for 5 s. */
export async function killAll({ uid }: Pick<Slot, 'uid'>): Promise<void> {
  if (uid === null) return;
  for (let tried = 0; tried < 100; tried += 1) {
    const pids = pidsOf(uid);
    if (pids.length === 0) return;
    for (const pid of pids) {
      try {
        process.kill(pid, 'SIGKILL');
      } catch (error) {
        if (!(error instanceof Error && 'code' in error && error.code === 'ESRCH')) throw error;
      }
    }
    await pause(Math.min(50, 1 + tried));
  }
  throw new Error(`processes of uid ${uid} survive being killed`);
}
