import type { Access } from '@vaquero/contracts';
import type { Request } from 'express';
import type { Deps } from '../base/deps.ts';

/** What is known of who calls, by where a route is; filled in by whoever finds it out (`callers/who-calls.ts`). */
// biome-ignore lint/suspicious/noEmptyInterface: transport knows nobody; who does adds to it.
export interface Known {}

/** What a handler is given to know of who calls: by the access of its route, so that none is served without its guard. */
export type Who<A extends Access> = A['in'] extends keyof Known ? Known[A['in']] : never;

/** Finds out who calls, and refuses whoever may not make the call, before anything of it is read. */
export type Guard = <A extends Access>(deps: Deps, access: A, req: Request) => Promise<Who<A>>;

declare module '../base/deps.ts' {
  interface Deps {
    readonly guard: Guard;
  }
}
