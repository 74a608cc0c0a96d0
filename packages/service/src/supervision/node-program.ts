import { availableParallelism } from 'node:os';

/** How many helpers Node gives each program where nobody says otherwise. */
const usualHelpers = 4;

/**
 * The command that runs a program of ours in Node, with fewer helpers than there are processors: those threads
 * collect garbage and compile beside the program, and four of them on two processors take both from it, and from
 * the other roles, for tens of milliseconds at a time.
 */
export function nodeProgram(file: string): readonly string[] {
  const helpers = Math.min(usualHelpers, Math.max(1, availableParallelism() - 1));
  return [process.execPath, `--v8-pool-size=${helpers}`, file];
}
