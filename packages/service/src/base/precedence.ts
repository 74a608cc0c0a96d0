import { writeFileSync } from 'node:fs';
import { setPriority } from 'node:os';

/**
 * How the parts of one machine stand in line for its processors (nice(2): lower comes first). What decides is
 * needed for moments, and most when the machine is busiest: going back must not wait behind the visitors that
 * a bad deploy has brought, nor visitors behind builds.
 */
const niceness = { database: -10, api: -10, edge: -5, runner: 0 } as const;

/**
 * Where the kernel shares its processors out between sessions first (sched(7), autogroup), the place of a
 * process counts in its session only: one that leads a session takes its place among those too.
 */
function setSession(pid: number, place: number): void {
  try {
    writeFileSync(`/proc/${pid}/autogroup`, String(place));
  } catch {
    // A kernel without such groups, a process that has ended, or no right to: it stays where it is.
  }
}

/** Gives a process that was just started its place in line; without the right to do so it stays where it is. */
export function takePlace(part: keyof typeof niceness, pid: number | undefined): void {
  if (niceness[part] === 0) return;
  set(pid, niceness[part]);
  // The database is started as a session of its own, so that it outlives a supervisor that was killed.
  if (part === 'database' && pid !== undefined) setSession(pid, niceness[part]);
}

/** Puts a process behind what decides and what serves: it does long work that the api only asked for. */
export function stepBack(pid: number | undefined): void {
  set(pid, niceness.runner);
}

function set(pid: number | undefined, place: number): void {
  if (pid === undefined) return;
  try {
    setPriority(pid, place);
  } catch (error) {
    const code = error instanceof Error && 'code' in error ? error.code : undefined;
    // Not root, or a container without that right; or it has ended already, which whoever started it sees.
    if (code !== 'ERR_SYSTEM_ERROR') throw error;
  }
}
