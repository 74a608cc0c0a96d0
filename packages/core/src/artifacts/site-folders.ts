/** A folder that looks like a finished site. */
export interface SiteFolder {
  readonly folder: string;
  readonly files: number;
}

/** Folders that hold sources, packages or tools and are never offered as a site. */
const never = /(?:^|\/)(?:node_modules|src|test|tests|\.[^/]+)(?:\/|$)/;

/**
 * Finds the folders that look like a site among the files of a build tree: those with an entry page,
 * not inside another such folder; most files first, four at most.
 * `before` are the paths the commit brought: a folder that the build made goes before one it found.
 */
export function siteFolders(
  paths: readonly string[],
  entry: string,
  before: ReadonlySet<string>,
): readonly SiteFolder[] {
  const endings = paths.filter((path) => path.endsWith(`/${entry}`) && !never.test(path));
  const folders = new Set(endings.map((path) => path.slice(0, -entry.length - 1)));
  // From path to folder, not from folder to path: a build may have written a hundred thousand of both.
  const files = new Map<string, number>();
  for (const path of paths) {
    const folder = outermostOf(path, folders);
    if (folder !== null) files.set(folder, (files.get(folder) ?? 0) + 1);
  }
  return [...files]
    .map(([folder, count]) => ({
      folder,
      files: count,
      made: before.has(`${folder}/${entry}`) ? 1 : 0,
    }))
    .sort((a, b) => a.made - b.made || b.files - a.files || (a.folder < b.folder ? -1 : 1))
    .slice(0, 4)
    .map(({ folder, files: count }) => ({ folder, files: count }));
}

/** The first of some folders on the way to a path, from the top. */
function outermostOf(path: string, folders: ReadonlySet<string>): string | null {
  for (let at = path.indexOf('/'); at !== -1; at = path.indexOf('/', at + 1)) {
    const folder = path.slice(0, at);
    if (folders.has(folder)) return folder;
  }
  return null;
}
