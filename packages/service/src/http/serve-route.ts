import type { Route } from '@vaquero/contracts';
import { abilityToChange, controlFaultsIn, type DocumentFault } from '@vaquero/core';
import type { Express, Request, Response } from 'express';
import type { z } from 'zod';
import { sha256 } from '../audit/record.ts';
import type { Tx } from '../database/pool.ts';
import { isDuplicate } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { type EnvironmentRow, environmentOfProject } from '../environments/environment-rows.ts';
import { authenticate } from '../people/authenticate.ts';
import { type Caller, maySee, requireAbility } from '../people/caller.ts';
import { type ProjectRow, projectByName } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';
import {
  claimKey,
  claimOnCommit,
  freeKey,
  type KeyedCall,
  KeyTaken,
  keepReply,
  keptReply,
} from './keyed-calls.ts';
import { isOfPeople, readBody } from './read-body.ts';

/** What a handler gets: the parsed call. `caller` and `project` are there when the route's access says so. */
export interface Call<Query, Body> {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Query;
  readonly body: Body;
  readonly req: Request;
  readonly res: Response;
}

/** A call inside a project, by somebody who may make it. */
export interface ProjectCall<Query, Body> extends Call<Query, Body> {
  readonly caller: Caller;
  readonly project: ProjectRow;
}

/** A call that changes what an environment serves, by somebody who may. */
export interface EnvironmentCall<Query, Body> extends ProjectCall<Query, Body> {
  readonly environment: EnvironmentRow;
  /**
   * Claims this call's idempotency key in the transaction of what it does, which fails as a duplicate where it was
   * carried out before. For other calls it is done beforehand.
   */
  readonly claim: Claim;
}

/** Puts the claim of a call's idempotency key, if it has one, into a transaction. */
export type Claim = (tx: Tx) => void;

/** Of a call without a key, or whose key was claimed already. */
const unclaimed: Claim = () => undefined;

/** A call by somebody known. */
export interface CallerCall<Query, Body> extends Call<Query, Body> {
  readonly caller: Caller;
}

/** Serves a route that is open, or that its handler guards by a machine's token. */
export function serveOpen<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  app: Express,
  route: Route<Q, B, R>,
  handle: (call: Call<z.output<Q>, z.output<B>>) => Promise<z.input<R> | undefined>,
): void {
  mount(app, route, async (req, res) => {
    await readBody(route, req, res);
    send(res, await handle(parse(route, req, res)), route);
  });
}

/** Serves a route for a machine: `guard` says which one calls, before anything of the call is read. */
export function serveGuarded<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType, Who>(
  app: Express,
  route: Route<Q, B, R>,
  guard: (req: Request) => Promise<Who>,
  handle: (call: Call<z.output<Q>, z.output<B>>, who: Who) => Promise<z.input<R> | undefined>,
): void {
  mount(app, route, async (req, res) => {
    const who = await guard(req);
    await readBody(route, req, res);
    send(res, await handle(parse(route, req, res), who), route);
  });
}

/** Serves a route for whoever is signed in, with the ability in the installation that it names. */
export function serveCaller<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  app: Express,
  deps: Deps,
  route: Route<Q, B, R>,
  handle: (call: CallerCall<z.output<Q>, z.output<B>>) => Promise<z.input<R> | undefined>,
): void {
  mount(app, route, async (req, res) => {
    const caller = await authenticate(deps, req);
    if (route.access.in === 'installation') requireAbility(caller, route.access.ability, null);
    await readBody(route, req, res);
    const call = { ...parse(route, req, res), caller };
    await once(deps, caller, req, res, route, () => handle(call));
  });
}

/** Serves a route of a project, for those with the ability that it names. */
export function serveProject<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  app: Express,
  deps: Deps,
  route: Route<Q, B, R>,
  handle: (call: ProjectCall<z.output<Q>, z.output<B>>) => Promise<z.input<R> | undefined>,
): void {
  mount(app, route, async (req, res) => {
    const name = String(req.params.project ?? '');
    // Side by side, to save a round trip: what is known of the project is told only to who may see it.
    const [caller, found] = await Promise.all([
      authenticate(deps, req),
      projectByName(deps.db, name),
    ]);
    const project = seenBy(caller, found, name);
    if (route.access.in === 'project') requireAbility(caller, route.access.ability, project);
    await readBody(route, req, res);
    const call = { ...parse(route, req, res), caller, project };
    await once(deps, caller, req, res, route, () => handle(call));
  });
}

/** Serves a route that changes what an environment serves, for those who may change that one. */
export function serveEnvironment<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  app: Express,
  deps: Deps,
  route: Route<Q, B, R>,
  handle: (call: EnvironmentCall<z.output<Q>, z.output<B>>) => Promise<z.input<R> | undefined>,
): void {
  mount(app, route, async (req, res) => {
    const names = {
      project: String(req.params.project ?? ''),
      environment: String(req.params.environment ?? ''),
    };
    const [caller, found] = await Promise.all([
      authenticate(deps, req),
      environmentOfProject(deps.db, names),
    ]);
    const project = seenBy(caller, found?.project, names.project);
    requireAbility(caller, abilityToChange(names.environment), project);
    const environment =
      found?.environment ??
      refused({ code: 'not-found', what: 'environment', name: names.environment });
    await readBody(route, req, res);
    const call = { ...parse(route, req, res), caller, project, environment };
    await once(deps, caller, req, res, route, (claim) => handle({ ...call, claim }));
  });
}

/** A project that the caller may see. Refuses: not-found, also where they may not. */
export function seenBy(caller: Caller, project: ProjectRow | undefined, name: string): ProjectRow {
  if (project === undefined || !maySee(caller, project.id))
    return refused({ code: 'not-found', what: 'project', name });
  return project;
}

function mount(
  app: Express,
  route: { readonly method: string; readonly path: string },
  serve: (req: Request, res: Response) => Promise<void>,
): void {
  const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
  app[method](route.path, (req, res, next) => {
    serve(req, res).catch(next);
  });
}

function parse<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  route: Route<Q, B, R>,
  req: Request,
  res: Response,
): Call<z.output<Q>, z.output<B>> {
  const unprintable = isOfPeople(route) ? unprintableIn(req) : [];
  if (unprintable.length > 0) return refused({ code: 'invalid-request', faults: unprintable });
  const query = route.query.safeParse(Object.keys(req.query).length === 0 ? undefined : req.query);
  const body = route.body.safeParse(bodyOf(req, route));
  const faults = [...faultsOf(query.error, 'query'), ...faultsOf(body.error, '')];
  if (!query.success || !body.success) return refused({ code: 'invalid-request', faults });
  const params = Object.fromEntries(
    Object.entries(req.params).map(([key, value]) => [key, String(value)]),
  );
  return { params, query: query.data, body: body.data, req, res };
}

function unprintableIn(req: Request): readonly DocumentFault[] {
  const texts = { path: req.params, query: req.query, body: req.body as unknown };
  return controlFaultsIn(texts).map((fault) => ({ ...fault, line: null, column: null }));
}

/** A client that sends an empty body to a route that takes none means none. */
function bodyOf(req: Request, route: { readonly body: z.ZodType }): unknown {
  const given: unknown = req.body;
  const isEmpty = typeof given === 'object' && given !== null && Object.keys(given).length === 0;
  return isEmpty && !route.body.safeParse(given).success ? undefined : given;
}

function faultsOf(error: z.ZodError | undefined, prefix: string): readonly DocumentFault[] {
  return (error?.issues ?? []).map((issue) => ({
    path: [prefix, ...issue.path.map(String)].filter((part) => part !== '').join('.'),
    message: issue.message,
    line: null,
    column: null,
  }));
}

/**
 * A POST with an idempotency key is carried out once; the same call again gets the reply it got. A reply that
 * holds a secret is not kept: the same call again is refused (shown-once).
 */
async function once<R extends z.ZodType>(
  deps: Deps,
  caller: Caller,
  req: Request,
  res: Response,
  route: Route<z.ZodType, z.ZodType, R>,
  act: (claim: Claim) => Promise<z.input<R> | undefined>,
): Promise<void> {
  const given = req.headers['idempotency-key'];
  if (route.method !== 'POST' || typeof given !== 'string' || given === '')
    return send(res, await act(unclaimed), route);
  const keyed: KeyedCall = {
    actorId: caller.personId,
    key: given.slice(0, 100),
    call: sha256(`${req.path}\n${JSON.stringify(req.body ?? null)}`),
  };
  // What changes an environment claims its key where it does so; a refusal there leaves no claim behind.
  const claimsItself = route.access.in === 'environment';
  const carryOut = async (): Promise<void> => {
    if (!claimsItself) await claimKey(deps.db, keyed, deps.clock());
    const claim = (tx: Tx) => claimOnCommit(tx, keyed, deps.clock());
    const reply = route.reply.parse(await act(claimsItself ? claim : unclaimed));
    res.status(200).json(reply);
    // Kept once it is on its way: until then the same key is told that its call is being carried out.
    const kept = route.showsOnce === undefined ? JSON.stringify(reply) : shownOnce;
    keepReply(deps, keyed, { status: 200, reply: kept }).catch((err: unknown) =>
      deps.log.warn({ err }, 'a reply was not kept for its idempotency key'),
    );
  };
  const isTaken = (error: unknown): boolean =>
    error instanceof KeyTaken || (claimsItself && isDuplicate(error));
  try {
    await carryOut();
  } catch (error) {
    if (!claimsItself && !isTaken(error)) {
      await freeKey(deps, keyed);
      throw error;
    }
    // What the act says of a call that was carried out already is beside the point.
    const kept = await keptReply(deps, keyed);
    if (kept?.reply === shownOnce)
      return refused({ code: 'shown-once', what: route.showsOnce ?? 'call' });
    if (kept !== null) res.status(kept.status).type('json').send(kept.reply);
    else if (isTaken(error))
      await carryOut().catch((late: unknown) => {
        // A third call took the key meanwhile: it is about to answer.
        if (isTaken(late)) return refused({ code: 'still-running', key: keyed.key });
        throw late;
      });
    else throw error;
  }
}

/** Stands for a reply that is kept nowhere; no reply is empty. */
const shownOnce = '';

function send<R extends z.ZodType>(
  res: Response,
  reply: z.input<R> | undefined,
  route: { readonly reply: R },
): void {
  if (res.headersSent || res.writableEnded) return;
  res.status(200).json(route.reply.parse(reply));
}
