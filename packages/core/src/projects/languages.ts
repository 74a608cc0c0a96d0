/** A language of a repository, and how much of what is written by hand is in it: parts of a hundred. */
export interface LanguageShare {
  readonly name: string;
  readonly percent: number;
}

const mostTold = 6;

/**
 * The languages of some files by their size, the largest first; those under one per cent are left out. `languageOf` names the
 * language of a file by its name, undefined for what is none.
 */
export function languageShares(
  files: readonly { readonly path: string; readonly bytes: number }[],
  languageOf: (name: string) => string | undefined,
): readonly LanguageShare[] {
  const sums = new Map<string, number>();
  for (const { path, bytes } of files) {
    const language = languageOf(path.slice(path.lastIndexOf('/') + 1));
    if (language !== undefined) sums.set(language, (sums.get(language) ?? 0) + bytes);
  }
  const total = [...sums.values()].reduce((sum, bytes) => sum + bytes, 0);
  return [...sums]
    .map(([name, bytes]) => ({ name, percent: Math.round((bytes / Math.max(1, total)) * 100) }))
    .filter(({ percent }) => percent >= 1)
    .toSorted((one, other) => other.percent - one.percent || (one.name < other.name ? -1 : 1))
    .slice(0, mostTold);
}
