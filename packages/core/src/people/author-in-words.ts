/** The author of a commit: what Git has, and who that is here. */
export interface Author {
  readonly author: string;
  readonly authorIs: { readonly shownAs: string } | null;
}

/** Who wrote a commit: somebody who is known here by their address, or a name that anybody may have told Git. */
export function authorInWords({ author, authorIs }: Author): string {
  return authorIs === null ? `${author}, as Git has it` : authorIs.shownAs;
}
