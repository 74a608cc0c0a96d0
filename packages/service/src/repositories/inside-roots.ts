import { realpath, stat } from 'node:fs/promises';
import { isAbsolute, sep } from 'node:path';
import type { ApiConfig } from '../base/config.ts';
import { refused } from '../base/refused.ts';

/**
 * The real path of a repository below a folder that the operator opened, and outside of what belongs to the service
 * itself: its own repositories have rights of their own. Refuses: path-not-allowed, repository-not-found.
 */
export async function insideRoots(
  path: string,
  { repositoryRoots: roots, stateDirectory }: Pick<ApiConfig, 'repositoryRoots' | 'stateDirectory'>,
): Promise<string> {
  const real = (one: string): Promise<string> => realpath(one).catch(() => one);
  const [allowed, state] = [await Promise.all(roots.map(real)), await real(stateDirectory)];
  if (!isAbsolute(path)) return refused({ code: 'path-not-allowed', path, roots });
  // A link inside a root must not lead out of it, so the real path is what is judged and kept.
  const found = await realpath(path).catch(() => undefined);
  const isIn = (candidate: string, folder: string): boolean =>
    candidate === folder || candidate.startsWith(folder + sep);
  // A root that holds the state does not open it, and none opens what the service keeps of repositories.
  const isOpen = (candidate: string, root: string): boolean =>
    isIn(candidate, root) && (!isIn(candidate, state) || (root !== state && isIn(root, state)));
  const isKept = (candidate: string): boolean =>
    ['repositories', 'submodules'].some((name) => isIn(candidate, `${state}${sep}${name}`));
  const inside = (candidate: string): boolean =>
    allowed.some((root) => isOpen(candidate, root)) && !isKept(candidate);
  if (found === undefined)
    return inside(path)
      ? refused({ code: 'repository-not-found', place: path })
      : refused({ code: 'path-not-allowed', path, roots });
  if (!inside(found)) return refused({ code: 'path-not-allowed', path, roots });
  const there = await stat(found);
  return there.isDirectory() ? found : refused({ code: 'repository-not-found', place: path });
}
