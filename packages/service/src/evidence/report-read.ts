/** What was read of a report, or why it cannot be. */
export type Read<Content> =
  | { readonly ok: true; readonly value: Content }
  | { readonly ok: false; readonly why: string };
