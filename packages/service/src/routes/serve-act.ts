import type { Access, Route } from '@vaquero/contracts';
import type { Json } from '@vaquero/core';
import type { Express, Request } from 'express';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { Impossible, refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { type Call, mount, readCall, send } from '../http/serve-route.ts';
import { Done, type KeyedCall, keptCall, type NoteDone } from '../idempotency/kept-call-rows.ts';
import type { Caller } from '../people/caller.ts';

/** Of acts whose reply holds a secret: nothing of it could be shown again, and none is asked to. */
export function neverAgain(): never {
  throw new Impossible('a secret is shown once');
}

interface ByPerson {
  readonly caller: Caller;
}

/**
 * Serves an act: it is carried out once, however often the same call comes with the same key. What it came to is
 * written in its own transaction, so that there is no instant at which it is done and not known to be; the reply is made
 * of that, for the first call as for the same again. A reply with a secret is made for the first call alone.
 */
export function serveAct<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends string,
  A extends Extract<Access, { in: 'project' | 'environment' | 'installation' | 'self' }>,
  Kept extends Json,
>(
  app: Express,
  deps: Deps,
  route: Route<Q, B, R, P, A>,
  act: (
    call: Call<z.output<Q>, z.output<B>, P, A>,
    done: NoteDone,
  ) => Promise<Done<Kept> | readonly [Done<Kept>, z.output<R>]>,
  show: (call: Call<z.output<Q>, z.output<B>, P, A>, kept: Kept) => Promise<z.output<R>>,
): void {
  const isSecret = route.showsOnce !== undefined;
  serveKeyed(app, deps, route, {
    act: async (call, keyed) => {
      const done = await act(call, (tx, kept) => Done.inside(deps, tx, keyed, kept, isSecret));
      return done instanceof Done ? show(call, done.kept) : done[1];
    },
    again: async (call, keyed) => {
      const row = await keptCall(deps.db, keyed);
      if (row === undefined) return undefined;
      if (row.call !== keyed.call) return refused({ code: 'key-used-otherwise', key: keyed.key });
      if (row.kept === null)
        return refused({ code: 'shown-once', what: route.showsOnce ?? 'call' });
      return show(call, JSON.parse(row.kept) as Kept);
    },
  });
}

/**
 * Serves what is carried out once for each key: `act` writes the key in its own transaction, which fails where it is
 * taken; `again` answers a call that was carried out before, with undefined for one that was not.
 */
export function serveKeyed<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends string,
  A extends Access,
>(
  app: Express,
  deps: Deps,
  route: Route<Q, B, R, P, A>,
  {
    act,
    again,
  }: {
    readonly act: (
      call: Call<z.output<Q>, z.output<B>, P, A>,
      keyed: KeyedCall | null,
    ) => Promise<z.output<R>>;
    readonly again: (
      call: Call<z.output<Q>, z.output<B>, P, A>,
      keyed: KeyedCall,
    ) => Promise<z.output<R> | undefined>;
  },
): void {
  mount(app, deps, route, async (req, res) => {
    const call = await readCall(deps, route, req, res);
    const keyed = keyOf(req, call as Partial<ByPerson>);
    try {
      send(route, req, res, await act(call, keyed));
    } catch (error) {
      // What an act says of a call that was carried out already is beside the point.
      const before = keyed === null ? undefined : await again(call, keyed);
      if (before === undefined) throw error;
      send(route, req, res, before);
    }
  });
}

function keyOf(req: Request, { caller }: Partial<ByPerson>): KeyedCall | null {
  const given = req.headers['idempotency-key'];
  if (typeof given !== 'string' || given === '' || caller === undefined) return null;
  return {
    actorId: caller.personId,
    key: given.slice(0, 100),
    call: sha256(`${req.path}\n${JSON.stringify(req.body ?? null)}`),
  };
}
