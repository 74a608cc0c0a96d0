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
  const folders = endings.map((path) => path.slice(0, -entry.length - 1));
  const outermost = folders.filter(
    (folder) => !folders.some((other) => other !== folder && folder.startsWith(`${other}/`)),
  );
  return outermost
    .map((folder) => ({
      folder,
      files: paths.filter((path) => path.startsWith(`${folder}/`)).length,
      made: before.has(`${folder}/${entry}`) ? 1 : 0,
    }))
    .sort((a, b) => a.made - b.made || b.files - a.files || (a.folder < b.folder ? -1 : 1))
    .slice(0, 4)
    .map(({ folder, files }) => ({ folder, files }));
}
