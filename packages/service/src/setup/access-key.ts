import type { credentialRoutes, projectRoutes } from '@vaquero/contracts';
import { readSshAddress } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { refused, refuseField } from '../base/refused.ts';
import type { Kept } from '../repositories/credential-rows.ts';
import { insertKey, waitingKey } from '../repositories/key-rows.ts';
import { judgedAddress } from '../repositories/reach.ts';
import { fingerprintOf, hostKeysAt, makeKeyPair } from '../repositories/ssh.ts';

/**
 * Makes a key for a repository over SSH and asks its host which keys it is known by. It is kept sealed and opens nothing until
 * its public half is added there and one of the host's keys was confirmed.
 * Refuses: address-not-allowed, repository-unreachable, invalid-request.
 */
export async function makeKey(
  deps: Deps,
  url: string,
  by: string,
): Promise<credentialRoutes.KeyMade> {
  const place = readSshAddress(url) ?? refuseField('url', 'must be as ssh://user@host/path');
  const address = await judgedAddress(deps.config, place);
  const hostKeys = await hostKeysAt(address, place.port);
  if (hostKeys.length === 0)
    return refused({
      code: 'repository-unreachable',
      place: place.href,
      why: 'no SSH answers there',
    });
  const id = deps.newId();
  const pair = await makeKeyPair(deps.config.stateDirectory, `Vaquero reads ${place.host}`);
  await insertKey(deps, { id, place: place.href, hostKeys, ...pair }, { by, at: deps.clock() });
  return {
    key: id,
    place: place.href,
    publicKey: pair.publicKey,
    hostKeys: hostKeys.map((line) => ({
      type: (line.split(' ')[0] ?? '').replace(/^ssh-|^ecdsa-sha2-/, ''),
      fingerprint: fingerprintOf(line),
    })),
  };
}

type Source = NonNullable<z.output<typeof projectRoutes.tryProjectRoute.body>['repository']>;

/** What a repository that somebody names is to be read with; null where anybody may. Refuses as `keyConfirmed`. */
export async function credentialIn(deps: Deps, source: Source): Promise<Kept | null> {
  if (source.kind === 'ssh') return await keyConfirmed(deps, source.url, source);
  if (source.kind !== 'http' || source.credential === undefined) return null;
  return { kind: 'token', ...source.credential };
}

/**
 * A key that was made for this very place, with the host's key that somebody confirmed.
 * Refuses: key-unknown, credential-unfit, host-key-unconfirmed.
 */
export async function keyConfirmed(
  deps: Deps,
  url: string,
  { key, hostKey }: { readonly key: string; readonly hostKey: string },
): Promise<Extract<Kept, { kind: 'key' }>> {
  const place = readSshAddress(url);
  const made = await waitingKey(deps, key);
  if (place === undefined) return refused({ code: 'credential-unfit', place: url, wants: 'token' });
  // Made for another place it would open this one with what was confirmed of that.
  if (made === undefined || made.place !== place.href)
    return refused({ code: 'key-unknown', place: place.href });
  const confirmed = made.hostKeys.find((line) => fingerprintOf(line) === hostKey);
  if (confirmed === undefined)
    return refused({
      code: 'host-key-unconfirmed',
      fingerprint: hostKey,
      shown: made.hostKeys.map(fingerprintOf),
    });
  const { privateKey, publicKey } = made;
  return { kind: 'key', user: place.user, privateKey, publicKey, hostKey: confirmed };
}
