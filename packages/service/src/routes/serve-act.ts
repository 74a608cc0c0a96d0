import type { Access, Route } from '@vaquero/contracts';
import type { Digest, Json } from '@vaquero/core';
import { and, eq, lt } from 'drizzle-orm';
import type { Express, Request } from 'express';
import type { z } from 'zod';
import { sha256 } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Impossible, refused } from '../base/refused.ts';
import type { Tx } from '../database/pool.ts';
import { keyedCalls } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';
import { type Call, mount, readCall, send } from '../http/serve-route.ts';
import type { Caller } from '../people/caller.ts';

const keptMs = 24 * 3_600_000;

/** One call under an idempotency key: whose, and which call it was. */
export interface KeyedCall {
  readonly actorId: string;
  readonly key: string;
  readonly call: Digest;
}

/** Proof that an act has put its outcome beside its deed: only a transaction gives it. */
export class Done<Kept extends Json> {
  readonly #kept: Kept;

  private constructor(kept: Kept) {
    this.#kept = kept;
  }

  /** What is to be answered with. */
  get kept(): Kept {
    return this.#kept;
  }

  /** Writes the outcome of an act with its transaction, under the key of its call if that has one. */
  static inside<Kept extends Json>(
    deps: Deps,
    tx: Tx,
    keyed: KeyedCall | null,
    kept: Kept,
    isSecret: boolean,
  ): Done<Kept> {
    if (keyed !== null) {
      const row = { ...keyed, at: deps.clock(), kept: isSecret ? null : JSON.stringify(kept) };
      onCommit(tx, tx.insert(keyedCalls).values(row));
    }
    return new Done(kept);
  }
}

/** Notes, in the transaction of an act, that it is done and what came of it: little enough to find it again. */
export type NoteDone = <Kept extends Json>(tx: Tx, kept: Kept) => Done<Kept>;

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
      const [row] = await deps.db
        .select()
        .from(keyedCalls)
        .where(and(eq(keyedCalls.actorId, keyed.actorId), eq(keyedCalls.key, keyed.key)));
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

/** Forgets what came of calls after a day. */
export async function sweepKeys(deps: Deps): Promise<void> {
  await deps.db.delete(keyedCalls).where(lt(keyedCalls.at, deps.clock() - keptMs));
}
