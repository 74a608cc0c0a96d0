import { type Decision, type Refusal, refuse } from '@vaquero/core';

/** A refusal on its way out of a use case to the one place that answers it. */
export class Refused extends Error {
  readonly refusal: Refusal;

  constructor(refusal: Refusal) {
    super(refusal.code);
    this.name = 'Refused';
    this.refusal = refusal;
  }
}

/** The value of a decision; throws `Refused` for a no, which rolls a transaction back on its way. */
export function orRefuse<T>(decision: Decision<T>): T {
  if (!decision.ok) throw new Refused(decision.refusal);
  return decision.value;
}

/** Throws the refusal. */
export function refused(refusal: Refusal): never {
  return orRefuse(refuse(refusal));
}

/** Refuses one field of a request. */
export function refuseField(path: string, message: string): never {
  const faults = [{ path, message, line: null, column: null }];
  return refused({ code: 'invalid-request', faults });
}

/** An outside system failed: which, doing what, and whether trying again may help. */
export class OutsideFailure extends Error {
  readonly system: string;

  constructor(system: string, action: string, options?: ErrorOptions) {
    super(`${system}: ${action}`, options);
    this.name = 'OutsideFailure';
    this.system = system;
  }
}

/** A broken invariant: a bug of ours. */
export class Impossible extends Error {
  override readonly name = 'Impossible';
}
