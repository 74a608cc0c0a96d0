import { existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rmdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Limits } from '../config.ts';

/** Control groups that bound the memory and the processes of one build over all it starts. */
export interface ControlGroup {
  readonly add: (pid: number) => Promise<void>;
  /** Whether no process is left in it; none leaves it by itself. */
  readonly isEmpty: () => Promise<boolean>;
  /** Whether something in it was killed for memory. */
  readonly ranOutOfMemory: () => Promise<boolean>;
  /** Whether the start of a process was refused. */
  readonly ranOutOfProcesses: () => Promise<boolean>;
  readonly remove: () => Promise<void>;
}

const root = '/sys/fs/cgroup';
/** The hierarchies of version 1, or the one hierarchy of version 2. */
const parents = {
  memory: join(root, 'memory'),
  pids: join(root, 'pids'),
  processors: join(root, 'cpu'),
  both: root,
} as const;
/**
 * What all builds of a machine weigh together against one group of everything else: half of it. Their niceness says
 * nothing of that, since each is a session of its own (sched(7), autogroup).
 */
const weights = { 'cpu.shares': '512', 'cpu.weight': '50' } as const;

/**
 * Makes control groups for a build where the machine offers them to us (version 1 or 2).
 * Null where it does not: the limits of each process and the watcher over all of them remain.
 */
export async function makeControlGroup(name: string, limits: Limits): Promise<ControlGroup | null> {
  if (process.getuid?.() !== 0) return null;
  const isFirst = existsSync(join(parents.memory, 'memory.limit_in_bytes'));
  const memory = join(isFirst ? parents.memory : parents.both, 'vaquero', name);
  const pids = join(isFirst ? parents.pids : parents.both, 'vaquero', name);
  try {
    if (!isFirst) await delegate();
    for (const path of new Set([memory, pids])) await mkdir(path, { recursive: true });
    await writeFile(
      join(memory, isFirst ? 'memory.limit_in_bytes' : 'memory.max'),
      String(limits.memoryBytes),
    );
    await writeFile(join(pids, 'pids.max'), String(limits.processes));
  } catch {
    // No such controller, or a hierarchy that is not ours to change, as in many containers: the other limits remain.
    return null;
  }
  const shared = isFirst ? await weighedApart() : null;
  const joined = new Set([memory, pids, ...(shared === null ? [] : [shared])]);
  const count = async (path: string, field: string): Promise<number> => {
    const text = await readFile(path, 'utf8').catch(() => ''); // Removed meanwhile: nothing more is counted there.
    return Number(new RegExp(`^${field} (\\d+)`, 'm').exec(text)?.[1] ?? 0);
  };
  return {
    add: async (pid) => {
      for (const path of joined) await writeFile(join(path, 'cgroup.procs'), String(pid));
    },
    isEmpty: async () =>
      (await readFile(join(pids, 'cgroup.procs'), 'utf8').catch(() => 'unknown')) === '',
    ranOutOfMemory: async () =>
      (await count(join(memory, isFirst ? 'memory.oom_control' : 'memory.events'), 'oom_kill')) > 0,
    ranOutOfProcesses: async () => (await count(join(pids, 'pids.events'), 'max')) > 0,
    remove: async () => {
      // A group goes only when its last process is reaped; one that stays for a moment is removed at the next start.
      for (const path of new Set([memory, pids])) await rmdir(path).catch(() => undefined);
    },
  };
}

/** Version 2 hands controllers down only where the parent says so. */
async function delegate(): Promise<void> {
  await mkdir(join(parents.both, 'vaquero'), { recursive: true });
  await writeFile(join(parents.both, 'cgroup.subtree_control'), '+memory +pids');
  await writeFile(join(parents.both, 'vaquero', 'cgroup.subtree_control'), '+memory +pids');
  await weigh(join(parents.both, 'vaquero'), 'cpu.weight', async () => {
    await writeFile(join(parents.both, 'cgroup.subtree_control'), '+cpu');
  });
}

/** Version 1: the group of all builds in the hierarchy of the processors, or null where there is none. */
async function weighedApart(): Promise<string | null> {
  const path = join(parents.processors, 'vaquero');
  const isThere = await weigh(path, 'cpu.shares', async () => {
    await mkdir(path, { recursive: true });
  });
  return isThere ? path : null;
}

/** Says what builds weigh. Without that controller they stand in line like everything else; their limits hold all the same. */
async function weigh(
  path: string,
  file: keyof typeof weights,
  make: () => Promise<void>,
): Promise<boolean> {
  try {
    await make();
    await writeFile(join(path, file), weights[file]);
    return true;
  } catch {
    return false; // As said above.
  }
}

/** Removes the groups that an earlier runner left for some slots; other runners of the machine keep theirs. */
export async function clearControlGroups(slots: readonly string[]): Promise<void> {
  for (const parent of Object.values(parents)) {
    const names = await readdir(join(parent, 'vaquero'), { withFileTypes: true }).catch(() => []);
    const own = names.filter(
      (each) => each.isDirectory() && slots.some((slot) => each.name.startsWith(`${slot}-`)),
    );
    // As above: one whose processes are not reaped yet stays until the next start.
    for (const each of own) await rmdir(join(parent, 'vaquero', each.name)).catch(() => undefined);
  }
}
