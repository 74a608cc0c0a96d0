import type { ReadEntry } from '@vaquero/core';
import type { Response } from 'express';
import type { Deps } from '../deps.ts';
import { whenClosed } from '../http/when-closed.ts';
import { type Caller, named } from './caller.ts';
import { isCredentialGood } from './token-rows.ts';

/** What ran out is found out after this long at most. */
const lookEveryMs = 15_000;

/** Cuts a reply that goes on for long once the session or the token it was asked with has ended. */
export function whileSignedIn(deps: Deps, { credential }: Caller, res: Response): void {
  const cut = (): void => void res.destroy();
  const own = named(credential);
  const quit = deps.follower.listen((entry) => {
    if (endedBy(entry).some(({ kind, id }) => kind === own.kind && id === own.id)) cut();
  });
  const timer = setInterval(() => {
    isCredentialGood(deps.db, credential, deps.clock()).then(
      (isGood) => isGood || cut(),
      // A database that is away ends nothing: it is asked again.
      (err: unknown) => deps.log.warn({ err }, 'a session could not be looked at'),
    );
  }, lookEveryMs);
  whenClosed(res, () => {
    clearInterval(timer);
    quit();
  });
}

/** The sessions and tokens that a decision ended. */
function endedBy({ kind, who, facts }: ReadEntry): readonly NonNullable<ReadEntry['who']['by']>[] {
  if (kind === 'person.signed-out') return who.by === null ? [] : [who.by];
  if (kind === 'person.session-ended') return [{ kind: 'session', id: String(facts.session) }];
  if (kind !== 'token.revoked') return [];
  const others = Array.isArray(facts.madeWithIt) ? facts.madeWithIt : [];
  return [facts.token, ...others].map((id) => ({ kind: 'token', id: String(id) }));
}
