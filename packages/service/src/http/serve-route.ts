import { channel } from 'node:diagnostics_channel';
import {
  type Access,
  type ParamsOf,
  paramNames,
  pathParams,
  type Route,
  refusalsOf,
} from '@vaquero/contracts';
import { controlFaultsIn, type DocumentFault } from '@vaquero/core';
import type { Express, Request, Response } from 'express';
import { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { Impossible, Refused, refused } from '../base/refused.ts';
import { isOfPeople, readBody } from './read-body.ts';
import { seenIn } from './seen-version.ts';
import type { Who } from './who.ts';

/** What a handler gets: the call as its route declares it, and who makes it. */
export type Call<Query, Body, Path extends string, A extends Access> = Who<A> & {
  readonly params: ParamsOf<Path>;
  readonly query: Query;
  readonly body: Body;
  /** The version that it says it saw of what it sets anew. */
  readonly seen: string | null;
  readonly req: Request;
  readonly res: Response;
};

/**
 * Serves a route: who calls is known before a byte of the body is read, the call is what the route declares, and so is
 * the reply. A handler that has answered by itself returns undefined.
 */
export function serve<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends string,
  A extends Access,
>(
  app: Express,
  deps: Deps,
  route: Route<Q, B, R, P, A>,
  handle: (call: Call<z.output<Q>, z.output<B>, P, A>) => Promise<z.output<R> | undefined>,
): void {
  mount(app, deps, route, async (req, res) => {
    const call = await readCall(deps, route, req, res);
    send(route, req, res, await handle(call));
  });
}

/** Hears of refusals that the route does not declare: faults of ours, which the tests wait for. */
export const undeclaredRefusals = channel('vaquero:undeclared-refusals');

/** Mounts a route; whatever its handler throws goes to the one place that answers it. */
export function mount(
  app: Express,
  deps: Deps,
  route: Parameters<typeof refusalsOf>[0] & { readonly path: string },
  handle: (req: Request, res: Response) => Promise<void>,
): void {
  const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
  const declared = new Set(refusalsOf(route));
  app[method](route.path, (req, res, next) => {
    handle(req, res).catch((error: unknown) => {
      if (error instanceof Refused && !declared.has(error.refusal.code)) {
        const fault = { route: `${route.method} ${route.path}`, code: error.refusal.code };
        deps.log.error(fault, 'a refusal that the contract does not name');
        undeclaredRefusals.publish(fault);
      }
      next(error);
    });
  });
}

/** Reads a call, by somebody who may make it. */
export async function readCall<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends string,
  A extends Access,
>(
  deps: Deps,
  route: Route<Q, B, R, P, A>,
  req: Request,
  res: Response,
): Promise<Call<z.output<Q>, z.output<B>, P, A>> {
  const who = await deps.guard(deps, route.access, req);
  await readBody(route, req, res);
  const unprintable = isOfPeople(route) ? unprintableIn(req) : [];
  if (unprintable.length > 0) return refused({ code: 'invalid-request', faults: unprintable });
  const query = route.query.safeParse(Object.keys(req.query).length === 0 ? undefined : req.query);
  const body = route.body.safeParse(bodyOf(req, route));
  const faults = [...faultsOf(query.error, 'query'), ...faultsOf(body.error, '')];
  if (!query.success || !body.success) return refused({ code: 'invalid-request', faults });
  const seen = seenIn(req);
  if (route.edits && seen === null) return refused({ code: 'condition-missing' });
  const params = paramsOf(route.path, req);
  return { ...who, params, query: query.data, body: body.data, seen, req, res };
}

/** Answers a call with the reply that its route declares. */
export function send<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  route: Route<Q, B, R>,
  req: Request,
  res: Response,
  reply: z.output<R> | undefined,
): void {
  if (res.headersSent || res.writableEnded) return;
  if (reply === undefined) throw new Impossible('neither a reply nor an answer');
  // What the contract does not let out is a fault of ours, and not sent.
  const sent: unknown = z.encode(route.reply, reply);
  if (sent === null) {
    res.status(204).end();
    return;
  }
  const tag = route.tag?.(reply);
  if (tag !== undefined) res.setHeader('etag', `"${tag}"`);
  const place = route.made?.(reply, textsOf(req.params));
  if (place !== undefined) res.status(201).location(place);
  const rest = route.rest?.(reply);
  if (rest != null) {
    const query = { ...textsOf(req.query), ...textsOf(rest as object) };
    res.links({ next: `${req.path}?${new URLSearchParams(query).toString()}` });
  }
  res.json(sent);
}

function textsOf(values: object): Record<string, string> {
  return Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value)]));
}

/** The parameters of a path. Refuses (not-found) one that can name nothing. */
function paramsOf<P extends string>(path: P, req: Request): ParamsOf<P> {
  const entries = paramNames(path).map((name) => {
    const given = String(req.params[name] ?? '');
    const read = pathParams[name].safeParse(given);
    return read.success
      ? ([name, read.data] as const)
      : refused({ code: 'not-found', what: inWords[name] ?? name, name: given.slice(0, 100) });
  });
  return Object.fromEntries(entries) as ParamsOf<P>;
}

const inWords: Partial<Record<keyof typeof pathParams, string>> = {
  pullRequest: 'pull request',
  digest: 'blob',
};

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
