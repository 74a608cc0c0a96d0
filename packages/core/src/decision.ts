import type { Refusal } from './refusal.ts';

/** An outcome that may be a no: the value, or the refusal that explains itself. */
export type Decision<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly refusal: Refusal };

/** A yes that carries its value. */
export function allow<T>(value: T): Decision<T> {
  return { ok: true, value };
}

/** A no that carries its reason. */
export function refuse(refusal: Refusal): { readonly ok: false; readonly refusal: Refusal } {
  return { ok: false, refusal };
}
