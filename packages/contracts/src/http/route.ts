import type { Ability } from '@vaquero/core';
import type { z } from 'zod';
import type { FilledBy } from './path-params.ts';

/** Who may call a route: an ability in the project of its path, in the installation, or a word for the rest. */
export type Access =
  | { readonly in: 'project'; readonly ability: Ability }
  | { readonly in: 'environment' }
  | { readonly in: 'installation'; readonly ability: Ability }
  | { readonly in: 'self' }
  | { readonly in: 'open' }
  | { readonly in: 'role'; readonly role: 'runner' | 'edge' }
  | { readonly in: 'attempt' };

/**
 * A route, declared once: the server, the client, the command line and the console read it. Who may call it and what
 * its path holds decide what its handler is given.
 */
export interface Route<
  Query extends z.ZodType,
  Body extends z.ZodType,
  Reply extends z.ZodType,
  Path extends string = string,
  Who extends Access = Access,
> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** Path with `:name` for parameters, which `path-params.ts` knows. */
  readonly path: Path;
  readonly access: Who;
  readonly query: Query;
  readonly body: Body;
  readonly reply: Reply;
  /** Where what was made has its address; such a reply is 201 with `Location`. */
  readonly made?: (reply: z.output<Reply>, params: Readonly<Record<string, string>>) => string;
  /** The query of the rest of a list, behind `Link: …; rel="next"`; null at its end. */
  readonly rest?: (reply: z.output<Reply>) => z.input<Query> | null;
  /** What its reply holds the secret of: such a reply is kept nowhere, not even for a call that is made again. */
  readonly showsOnce?: string;
}

/** Any route, where its schemas do not matter. */
// biome-ignore lint/suspicious/noExplicitAny: functions of replies are not assignable to functions of `unknown`.
export type AnyRoute = Omit<Route<z.ZodType, z.ZodType, any>, 'reply'> & {
  readonly reply: z.ZodType;
};

/** Declares a route. */
export function route<
  Query extends z.ZodType,
  Body extends z.ZodType,
  Reply extends z.ZodType,
  const Path extends string,
  const Who extends Access,
>(declaration: Route<Query, Body, Reply, Path, Who>): Route<Query, Body, Reply, Path, Who> {
  return declaration;
}

/** Fills the parameters of a route's path; each is escaped. Throws a RangeError when one is absent. */
export function pathOf<Path extends string>(
  declaration: { readonly path: Path },
  params: FilledBy<Path> | Readonly<Record<string, string | number>>,
): string {
  const given = params as Readonly<Record<string, string | number>>;
  return declaration.path.replace(/:([a-z]+)/gi, (_, name: string) => {
    const value = given[name];
    if (value === undefined) throw new RangeError(`${declaration.path} needs ${name}`);
    return encodeURIComponent(String(value));
  });
}
