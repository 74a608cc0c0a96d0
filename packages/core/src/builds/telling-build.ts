interface OfRecipe {
  readonly recipeName: string;
  /** The rules of the map that want it. */
  readonly rules: readonly string[];
  readonly state: string;
}

/**
 * Of the builds of one commit, the newest first, the one that tells how it stands: a recipe's newest build that failed, of
 * those with the values of the same environments, else the newest of all.
 */
export function tellingBuild<Build extends OfRecipe>(builds: readonly Build[]): Build | undefined {
  const newest = builds.filter(
    (one, place) =>
      builds.findIndex(
        (other) => other.recipeName === one.recipeName && !areForOthers(other.rules, one.rules),
      ) === place,
  );
  return newest.find(({ state }) => state === 'failed') ?? newest[0];
}

/** Whether builds of one commit are wanted by different rules of the map, which give them different values. */
export function areForOthers(own: readonly string[], other: readonly string[]): boolean {
  return own.length > 0 && other.length > 0 && !other.some((rule) => own.includes(rule));
}
