import type { IncomingMessage } from 'node:http';
import { type Digest, narrowed } from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import { byPerson } from '../audit/record.ts';
import { cookieOf } from '../base/cookie-of.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { requestIdOf } from '../http/request-id.ts';
import { type Caller, named, sessionById } from '../people/caller.ts';
import { grantsOf } from '../people/grant-rows.ts';
import { groupsOf } from '../people/group-rows.ts';
import { personById } from '../people/people-rows.ts';
import { personOfSession } from '../people/session-rows.ts';
import { holderOf, noteTokenUse } from '../people/token-rows.ts';

/** The session cookie: the prefix makes browsers refuse it from other hosts, paths and plain http (RFC 6265bis 4.1.3.2). */
export const sessionCookie = '__Host-vaquero';

/** The secret of the session cookie of a request, if it carries one. */
export function sessionSecretOf(req: IncomingMessage): string | undefined {
  return cookieOf(req, sessionCookie);
}

/** Where a request came from: the address that a proxy names if the operator trusts that proxy, else the other end itself. */
export function originOf(req: IncomingMessage): string {
  const named = 'ip' in req && typeof req.ip === 'string' ? req.ip : req.socket.remoteAddress;
  // What a proxy names may be any text, and stands in columns.
  return (named ?? 'unknown').slice(0, 100);
}

/** From where a call came, and its id. */
export function fromOf(req: IncomingMessage): Pick<Doing, 'origin' | 'request'> {
  return { origin: originOf(req), request: requestIdOf(req) };
}

/**
 * Finds who calls: by a bearer token if there is one, else by the session cookie.
 * A session that writes must come from the console's own origin and carry our header; SameSite is never
 * relied on, since pages of environments can be the same site.
 * Refuses: not-signed-in, forged-request, token-git-only.
 */
export async function authenticate(deps: Deps, req: IncomingMessage): Promise<Caller> {
  const bearer = /^Bearer (\S+)$/i.exec(req.headers.authorization ?? '')?.[1];
  if (bearer !== undefined) {
    const { caller, kind, token } = await callerOfToken(deps, bearer, throughOf(req), fromOf(req));
    if (kind === 'git') refused({ code: 'token-git-only', token });
    return caller;
  }
  const secret = sessionSecretOf(req);
  if (secret === undefined) return refused({ code: 'not-signed-in', tried: 'nothing' });
  refuseForged(deps, req);
  const personId = await personOfSession(deps.db, sha256(secret), deps.clock());
  if (personId === undefined) return refused({ code: 'not-signed-in', tried: 'session' });
  return callerOfSession(deps, personId, sha256(secret), fromOf(req));
}

/** Refuses (forged-request) a writing request unless the console itself made it. */
export function refuseForged(deps: Deps, req: IncomingMessage): void {
  if (req.method === 'GET' || req.method === 'HEAD') return;
  if (req.headers.origin !== deps.config.origin)
    refused({ code: 'forged-request', because: 'origin' });
  if (req.headers['vaquero-request'] !== 'console')
    refused({ code: 'forged-request', because: 'header' });
}

/** The caller behind a token, with its kind. Refuses: not-signed-in. */
export async function callerOfToken(
  deps: Deps,
  secret: string,
  through: string,
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<{ caller: Caller; kind: 'all' | 'git'; token: string }> {
  const holder = await holderOf(deps.db, sha256(secret), deps.clock());
  if (holder === undefined) return refused({ code: 'not-signed-in', tried: 'token' });
  const { token, person, groups, grants } = holder;
  await noteTokenUse(deps.db, token, deps.clock());
  const { id: personId, name, shownAs } = person;
  const credential = { kind: 'token', id: token.id, expiresAt: token.expiresAt } as const;
  return {
    caller: {
      personId,
      name,
      shownAs,
      groups,
      grants: token.scope === null ? grants : narrowed(grants, token.scope),
      narrow: token.scope === null ? null : { token: token.name, scope: token.scope, own: grants },
      by: 'token',
      credential,
      doing: byPerson(personId, through, { ...from, by: named(credential) }),
    },
    kind: token.kind,
    token: token.name,
  };
}

async function callerOfSession(
  deps: Deps,
  personId: string,
  hash: Digest,
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<Caller> {
  const [person, groups, grants] = await Promise.all([
    personById(deps.db, personId),
    groupsOf(deps.db, personId),
    grantsOf(deps.db, personId),
  ]);
  if (person === undefined) return refused({ code: 'not-signed-in', tried: 'session' });
  const { name, shownAs } = person;
  return {
    personId,
    name,
    shownAs,
    groups,
    grants,
    narrow: null,
    by: 'session',
    credential: { kind: 'session', hash },
    doing: byPerson(personId, 'console', { ...from, by: sessionById(hash) }),
  };
}

function throughOf(req: IncomingMessage): string {
  return req.headers['vaquero-client'] === 'cli' ? 'cli' : 'api';
}
