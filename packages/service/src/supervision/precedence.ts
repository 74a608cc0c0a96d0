import { setPriority } from 'node:os';

/**
 * How the parts of one machine stand in line for its processors (nice(2): lower comes first). What decides is
 * needed for moments, and most when the machine is busiest: going back must not wait behind the visitors that
 * a bad deploy has brought, nor visitors behind builds.
 */
const niceness = { database: -10, api: -10, edge: -5, runner: 0 } as const;

/** Gives a process that was just started its place in line; without the right to do so it stays where it is. */
export function takePlace(part: keyof typeof niceness, pid: number | undefined): void {
  if (pid === undefined || niceness[part] === 0) return;
  try {
    setPriority(pid, niceness[part]);
  } catch (error) {
    const code = error instanceof Error && 'code' in error ? error.code : undefined;
    // Not root, or a container without that right; or it has ended already, which its keeper sees.
    if (code !== 'ERR_SYSTEM_ERROR') throw error;
  }
}
