interface OfRecipe {
  readonly recipeName: string;
  readonly state: string;
}

/**
 * Of the builds of one commit, the newest first, the one that tells how it stands: a recipe's newest build that failed,
 * else the newest of all.
 */
export function tellingBuild<Build extends OfRecipe>(builds: readonly Build[]): Build | undefined {
  const newest = builds.filter(
    ({ recipeName }, place) =>
      builds.findIndex((other) => other.recipeName === recipeName) === place,
  );
  return newest.find(({ state }) => state === 'failed') ?? newest[0];
}
