import type { Response } from 'express';
import type { Deps } from '../deps.ts';
import { whenClosed } from '../http/when-closed.ts';
import { type Caller, keyOfCredential } from './caller.ts';
import { isCredentialGood } from './people-rows.ts';

/** What another process ended, or what ran out, is found out after this long at most. */
const lookEveryMs = 15_000;

/** Cuts a reply that goes on for long once the session or the token it was asked with has ended. */
export function whileSignedIn(deps: Deps, { credential }: Caller, res: Response): void {
  const cut = (): void => void res.destroy();
  const quit = deps.events.listenEnded(keyOfCredential(credential), cut);
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
