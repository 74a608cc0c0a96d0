import type { Actor, Instant, MadeDecision } from '@vaquero/core';

/** Who does something, through what, and from where. */
export interface Doing {
  readonly actor: Actor;
  readonly through: string;
  /** The address the call came from; null for what Vaquero does by itself. */
  readonly origin: string | null;
  /** The id of the call; null outside of calls. */
  readonly request: string | null;
}

/** A decision to put on record. */
export type Decided = MadeDecision & {
  readonly at: Instant;
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly doing: Doing;
  /** The reason that somebody gave. */
  readonly why?: string | null;
};
