import { existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rmdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';

/** A control group that bounds the memory of one build over all its processes. */
export interface ControlGroup {
  readonly add: (pid: number) => Promise<void>;
  /** Whether something in it was killed for memory. */
  readonly ranOutOfMemory: () => Promise<boolean>;
  readonly remove: () => Promise<void>;
}

const v1 = '/sys/fs/cgroup/memory';
const v2 = '/sys/fs/cgroup';

/**
 * Makes a control group for a build where the machine offers one to us (version 1 or 2).
 * Null where it does not: RLIMIT_DATA for each process and the watcher over all of them remain.
 */
export async function makeControlGroup(
  name: string,
  memoryBytes: number,
): Promise<ControlGroup | null> {
  if (process.getuid?.() !== 0) return null;
  if (existsSync(join(v1, 'memory.limit_in_bytes')))
    return open(
      join(v1, 'vaquero', name),
      'memory.limit_in_bytes',
      'memory.oom_control',
      memoryBytes,
    );
  const controllers = await readFile(join(v2, 'cgroup.controllers'), 'utf8').catch(() => '');
  return controllers.split(/\s/).includes('memory')
    ? open(join(v2, 'vaquero', name), 'memory.max', 'memory.events', memoryBytes)
    : null;
}

async function open(
  path: string,
  limitFile: string,
  eventFile: string,
  memoryBytes: number,
): Promise<ControlGroup | null> {
  try {
    await mkdir(path, { recursive: true });
    if (limitFile === 'memory.max')
      await writeFile(join(v2, 'vaquero', 'cgroup.subtree_control'), '+memory');
    await writeFile(join(path, limitFile), String(memoryBytes));
  } catch {
    // The hierarchy is there but not ours to change, as in many containers: the other limits remain.
    return null;
  }
  return {
    add: (pid) => writeFile(join(path, 'cgroup.procs'), String(pid)),
    ranOutOfMemory: async () => {
      const events = await readFile(join(path, eventFile), 'utf8').catch(() => '');
      return Number(/^oom_kill (\d+)/m.exec(events)?.[1] ?? 0) > 0;
    },
    remove: async () => {
      // A group goes only when its last process is reaped; one that stays for a moment is removed at the next start.
      await rmdir(path).catch(() => undefined);
    },
  };
}

/** Removes the groups that an earlier runner left. */
export async function clearControlGroups(): Promise<void> {
  for (const parent of [join(v1, 'vaquero'), join(v2, 'vaquero')]) {
    const names = await readdir(parent, { withFileTypes: true }).catch(() => []);
    for (const each of names)
      if (each.isDirectory()) await rmdir(join(parent, each.name)).catch(() => undefined); // As above.
  }
}
