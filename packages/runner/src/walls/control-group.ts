import { existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rmdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Limits } from '../config.ts';

/** Control groups that bound the memory and the processes of one build over all it starts. */
export interface ControlGroup {
  readonly add: (pid: number) => Promise<void>;
  /** Whether something in it was killed for memory. */
  readonly ranOutOfMemory: () => Promise<boolean>;
  /** Whether the start of a process was refused. */
  readonly ranOutOfProcesses: () => Promise<boolean>;
  readonly remove: () => Promise<void>;
}

const root = '/sys/fs/cgroup';
/** The memory and the pids hierarchy of version 1, or the one hierarchy of version 2. */
const parents = { memory: join(root, 'memory'), pids: join(root, 'pids'), both: root } as const;

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
  const count = async (path: string, field: string): Promise<number> => {
    const text = await readFile(path, 'utf8').catch(() => ''); // Removed meanwhile: nothing more is counted there.
    return Number(new RegExp(`^${field} (\\d+)`, 'm').exec(text)?.[1] ?? 0);
  };
  return {
    add: async (pid) => {
      for (const path of new Set([memory, pids]))
        await writeFile(join(path, 'cgroup.procs'), String(pid));
    },
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
