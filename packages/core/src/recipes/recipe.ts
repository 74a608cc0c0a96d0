/** One command of a recipe, with the steps it comes after. */
export interface RecipeStep {
  readonly name: string;
  readonly run: readonly string[];
  readonly after: readonly string[];
  readonly network: 'none' | 'out';
}

/** What of the tree is published, and how it is answered. `site` null: found after the first build. */
export interface Serve {
  readonly site: string | null;
  readonly entry: string;
  readonly missing: string | null;
}

/** How a project is built. */
export interface Recipe {
  readonly name: string;
  readonly steps: readonly RecipeStep[];
  readonly serve: Serve;
}

/** Where a build's recipe came from. */
export type RecipeSource =
  | { readonly from: 'file'; readonly file: string }
  | { readonly from: 'accepted'; readonly version: number }
  | { readonly from: 'proposed'; readonly because: readonly string[] };

/** The name of the recipe file in the project's folder. */
export const recipeFileName = 'vaquero.yaml';
