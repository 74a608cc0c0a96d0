import type { Ability } from '@vaquero/core';
import type { z } from 'zod';

/** Who may call a route: an ability in the project of its path, in the installation, or a word for the rest. */
export type Access =
  | { readonly in: 'project'; readonly ability: Ability }
  | { readonly in: 'environment' }
  | { readonly in: 'installation'; readonly ability: Ability }
  | { readonly in: 'self' }
  | { readonly in: 'open' }
  | { readonly in: 'role'; readonly role: 'runner' | 'edge' }
  | { readonly in: 'attempt' };

/** A route, declared once: the server, the client, the CLI and the console read it. */
export interface Route<Query extends z.ZodType, Body extends z.ZodType, Reply extends z.ZodType> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** Path with `:name` for parameters. */
  readonly path: string;
  readonly access: Access;
  readonly query: Query;
  readonly body: Body;
  readonly reply: Reply;
  /** What its reply holds the secret of: such a reply is kept nowhere, not even for a call that is made again. */
  readonly showsOnce?: string;
}

/** Any route, where its schemas do not matter. */
export type AnyRoute = Route<z.ZodType, z.ZodType, z.ZodType>;

/** Declares a route. */
export function route<Query extends z.ZodType, Body extends z.ZodType, Reply extends z.ZodType>(
  declaration: Route<Query, Body, Reply>,
): Route<Query, Body, Reply> {
  return declaration;
}

/** Fills the parameters of a route's path; each is escaped. Throws a RangeError when one is absent. */
export function pathOf(
  declaration: { readonly path: string },
  params: Readonly<Record<string, string | number>>,
): string {
  return declaration.path.replace(/:([a-z]+)/gi, (_, name: string) => {
    const value = params[name];
    if (value === undefined) throw new RangeError(`${declaration.path} needs ${name}`);
    return encodeURIComponent(String(value));
  });
}
