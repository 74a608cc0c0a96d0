/**
 * Names a build beside another of the same commit: by its recipe, and by the rules that want it where the recipe is the
 * same and the values are others.
 */
export function siblingInWords({
  recipe,
  wantedBy,
}: {
  readonly recipe: string;
  readonly wantedBy: readonly string[];
}): string {
  return wantedBy.length === 0 ? recipe : `${recipe} for ${wantedBy.join(' and ')}`;
}
