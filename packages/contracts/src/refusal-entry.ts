import type { RefusalCode, RefusalFields } from '@vaquero/core';

/** What the catalogue says of one refusal. */
export interface CatalogueEntry<Code extends RefusalCode> {
  /** The HTTP status it is sent with. */
  readonly status: number;
  /** The exit code of the CLI: 1 fault, 2 usage, 3 refused, 4 unreachable. */
  readonly exit: 1 | 2 | 3 | 4;
  /** What happened and why, one or two sentences. */
  readonly sentence: (fields: RefusalFields[Code]) => string;
  /** The next thing to do. */
  readonly next: (fields: RefusalFields[Code]) => string;
}

/** Words that sentences of the catalogue share. */
export const clock = (at: number): string =>
  `${new Date(at).toISOString().slice(0, 16).replace('T', ' ')} UTC`;
export const short = (digest: string | null): string => digest?.slice(0, 8) ?? 'nothing';
export const list = (names: readonly string[], none: string): string =>
  names.length === 0 ? none : names.join(', ');
