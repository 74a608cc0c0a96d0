import type { AttemptGiven } from '@vaquero/contracts';

/**
 * What everything of a project is kept by here: the same when it is called otherwise, and never that of another project
 * which is called so later. A service of an earlier version knows names alone.
 */
export function builtAs({ builtAs: key, project }: AttemptGiven): string {
  return key ?? project;
}
