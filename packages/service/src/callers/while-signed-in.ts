import type { ReadEntry } from '@vaquero/core';
import type { Response } from 'express';
import type { Deps } from '../base/deps.ts';
import { whenClosed } from '../base/when-closed.ts';
import { type Caller, named } from '../people/caller.ts';
import { isCredentialGood } from '../people/token-rows.ts';

/** What ran out is found out after this long at most. */
const lookEveryMs = 15_000;

/**
 * Cuts a reply that goes on for long once the session or the token it was asked with has ended, or what its person may is
 * another thing: who comes back is asked anew.
 */
export function whileSignedIn(deps: Deps, caller: Caller, res: Response): void {
  const { credential } = caller;
  const cut = (): void => void res.destroy();
  const own = named(credential);
  const quit = deps.follower.listen((entry) => {
    const isOver = endedBy(entry).some(({ kind, id }) => kind === own.kind && id === own.id);
    if (isOver || changesRights(entry, caller)) cut();
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

const aboutRights = new Set([
  'person.granted',
  'person.grant-ended',
  'group.joined',
  'group.left',
  'group.ended',
]);

/** Whether a decision may have changed what somebody may: their own grants, or those of a group while they are in any. */
function changesRights({ kind, facts }: ReadEntry, { personId, groups }: Caller): boolean {
  return aboutRights.has(kind) && (facts.person === personId || groups.length > 0);
}

/** The sessions and tokens that a decision ended. */
function endedBy({ kind, who, facts }: ReadEntry): readonly NonNullable<ReadEntry['who']['by']>[] {
  if (kind === 'person.signed-out') return who.by === null ? [] : [who.by];
  if (kind === 'person.session-ended') return [{ kind: 'session', id: String(facts.session) }];
  if (kind !== 'token.revoked') return [];
  const others = Array.isArray(facts.madeWithIt) ? facts.madeWithIt : [];
  return [facts.token, ...others].map((id) => ({ kind: 'token', id: String(id) }));
}
