import type { Ability, MapAct, RefusalCode } from '@vaquero/core';
import type { z } from 'zod';
import type { FilledBy } from './path-params.ts';

/** Who may call a route: an ability in the project of its path, in the installation, or a word for the rest. */
export type Access =
  | { readonly in: 'project'; readonly ability: Ability }
  | { readonly in: 'environment'; readonly act: MapAct }
  /** Values of the whole project, or of the rule that the query names as `environment`: the map says whose they are. */
  | { readonly in: 'values' }
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
  /** What it does, in a line. */
  readonly summary: string;
  readonly access: Who;
  /** What it may refuse beside what everybody may be refused who calls it so: see `refusalsOf`. */
  readonly refuses?: readonly RefusalCode[];
  /** The media type of a body that comes as it is, and of a reply that is given so; JSON where it is left out. */
  readonly takes?: string;
  readonly gives?: string;
  readonly query: Query;
  readonly body: Body;
  readonly reply: Reply;
  /** Where what was made has its address; such a reply is 201 with `Location`. */
  readonly made?: (reply: z.output<Reply>, params: Readonly<Record<string, string>>) => string;
  /** The query of the rest of a list, behind `Link: …; rel="next"`; null at its end. */
  readonly rest?: (reply: z.output<Reply>) => z.input<Query> | null;
  /** The version of what is shown, as its `ETag`. */
  readonly tag?: (reply: z.output<Reply>) => string;
  /**
   * It sets anew what its address shows, which others edit, too: the call names the `version` of it that was seen
   * (`If-Match`), or `*` for whatever it is.
   */
  readonly edits?: true;
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

const always: readonly RefusalCode[] = [
  'invalid-request',
  'too-large',
  'database-away',
  'internal',
];
const ofPeople: readonly RefusalCode[] = [
  'not-signed-in',
  'token-git-only',
  'forged-request',
  'not-found',
];
const ofProject: readonly RefusalCode[] = [...ofPeople, 'project-renamed', 'project-ended'];
const byAccess: Readonly<Record<Access['in'], readonly RefusalCode[]>> = {
  open: ['forged-request'],
  role: ['not-signed-in', 'not-found', 'other-protocol'],
  attempt: ['attempt-over', 'not-found', 'other-protocol'],
  self: ofPeople,
  installation: [...ofPeople, 'not-allowed'],
  project: [...ofProject, 'not-allowed'],
  environment: [...ofProject, 'not-allowed', 'token-too-narrow'],
  values: [...ofProject, 'not-allowed', 'token-too-narrow'],
};

/** All that a call of a route may be refused: by who calls, by how it is called, and what the route itself refuses. */
export function refusalsOf({
  method,
  access,
  refuses = [],
  showsOnce,
  edits,
}: Pick<
  AnyRoute,
  'method' | 'access' | 'refuses' | 'showsOnce' | 'edits'
>): readonly RefusalCode[] {
  const isKeyed = method === 'POST' && byAccess[access.in].includes('token-git-only');
  return [
    ...new Set([
      ...always,
      ...byAccess[access.in],
      ...(isKeyed ? (['key-used-otherwise'] as const) : []),
      ...(showsOnce === undefined ? [] : (['shown-once'] as const)),
      ...(edits === true ? (['condition-missing', 'changed-since'] as const) : []),
      ...refuses,
    ]),
  ];
}
