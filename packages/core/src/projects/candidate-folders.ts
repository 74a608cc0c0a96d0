const mostFolders = 12;
const tells = /^(?:package\.json|vaquero\.yaml)$/;
/** Folders in which others put what is theirs, or what a build wrote. */
const left = /(?:^|\/)(?:node_modules|vendor|dist|build|out|test|tests|fixtures|\.[^/]+)(?:\/|$)/;

/**
 * The folders of a repository that a project may be: its root first, then those that hold a package or a recipe, the
 * shallowest first; a dozen at most.
 */
export function candidateFolders(paths: readonly string[]): readonly string[] {
  const found = new Set<string>();
  for (const path of paths) {
    const cut = path.lastIndexOf('/');
    if (cut > 0 && tells.test(path.slice(cut + 1))) found.add(path.slice(0, cut));
  }
  const depth = (folder: string): number => folder.split('/').length;
  const inside = [...found]
    .filter((folder) => !left.test(folder))
    .toSorted((one, other) => depth(one) - depth(other) || (one < other ? -1 : 1));
  return ['', ...inside].slice(0, mostFolders);
}
