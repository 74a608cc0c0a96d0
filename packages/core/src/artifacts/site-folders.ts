/** A folder that looks like a finished site. */
export interface SiteFolder {
  readonly folder: string;
  readonly files: number;
  /** Its entry page came with the commit, and no step wrote it. */
  readonly committed?: true;
}

/** Folders that hold sources, packages or tools and are never offered as a site. */
const never = /(?:^|\/)(?:node_modules|bower_components|vendor|src|test|tests|\.[^/]+)(?:\/|$)/;
/** Hidden folders that a generator writes a site to all the same. */
const hidden = /(?:^|\/)\.(?:vitepress\/dist|vuepress\/dist|output\/public)$/;

/** Whether a folder could be a site, by its path alone. */
export function mayBeSite(folder: string): boolean {
  return !never.test(folder.replace(hidden, ''));
}

/**
 * Finds the folders that look like a site among the files of a build tree: those with an entry page,
 * not inside another such folder; most files first, four at most. What the build wrote and what came with the
 * commit are told apart by the entry page, and looked at apart: a built site below a committed page is found.
 * `committed` are the paths that the commit brought and no step wrote anew.
 */
export function siteFolders(
  paths: readonly string[],
  entry: string,
  committed: ReadonlySet<string>,
): readonly SiteFolder[] {
  const endings = paths.filter((path) => path.endsWith(`/${entry}`));
  const folders = endings.map((path) => path.slice(0, -entry.length - 1)).filter(mayBeSite);
  const isCommitted = (folder: string): boolean => committed.has(`${folder}/${entry}`);
  const built = outermost(
    paths,
    folders.filter((folder) => !isCommitted(folder)),
  );
  const found = outermost(paths, folders.filter(isCommitted));
  return [...built, ...found.map((folder): SiteFolder => ({ ...folder, committed: true }))].slice(
    0,
    4,
  );
}

/** The outermost of some folders with how many files lie in each, most files first. */
function outermost(paths: readonly string[], folders: readonly string[]): readonly SiteFolder[] {
  const among = new Set(folders);
  // From path to folder, not from folder to path: a build may have written a hundred thousand of both.
  const files = new Map<string, number>();
  for (const path of paths) {
    const folder = outermostOf(path, among);
    if (folder !== null) files.set(folder, (files.get(folder) ?? 0) + 1);
  }
  return [...files]
    .map(([folder, count]) => ({ folder, files: count }))
    .sort((a, b) => b.files - a.files || (a.folder < b.folder ? -1 : 1));
}

/** The first of some folders on the way to a path, from the top. */
function outermostOf(path: string, folders: ReadonlySet<string>): string | null {
  for (let at = path.indexOf('/'); at !== -1; at = path.indexOf('/', at + 1)) {
    const folder = path.slice(0, at);
    if (folders.has(folder)) return folder;
  }
  return null;
}
