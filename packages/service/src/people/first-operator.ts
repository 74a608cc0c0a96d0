import { randomBytes } from 'node:crypto';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { later } from '@vaquero/core';
import { byVaquero, decide } from '../audit/record.ts';
import type { ApiConfig } from '../base/config.ts';
import type { Deps } from '../base/deps.ts';
import { sha256 } from '../base/sha256.ts';
import { unlessGone } from '../base/unless-gone.ts';
import { inTransaction } from '../database/transaction.ts';
import { addPerson } from './first-people.ts';
import { insertInvitation, invitationByHash } from './invitation-rows.ts';
import { anybody } from './people-rows.ts';

const lastsMs = 7 * 86_400_000;

/** Where the link stands that makes the first operator: for whoever may read what is the service's own. */
export function firstLinkPath(stateDirectory: string): string {
  return join(stateDirectory, 'first-operator');
}

/**
 * Makes the first operator of an installation that has nobody yet, or a link by which somebody becomes it, once: the link
 * stands in a file that only the service's own user reads, and is returned for the terminal. The same one is given again
 * until it was used or is over. Null once there is somebody.
 */
export async function startWithOperator(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  { firstOperator: first, origin, stateDirectory }: ApiConfig,
): Promise<string | null> {
  const path = firstLinkPath(stateDirectory);
  if (await anybody(deps.db)) {
    await rm(path, { force: true });
    return null;
  }
  const { name, password } = first;
  if (name !== null && password !== null) {
    await addPerson(deps, { name, shownAs: name, password, role: 'operator' });
    return null;
  }
  const kept = (await readFile(path, 'utf8').catch(unlessGone))?.trim();
  if (kept !== undefined && (await isOpen(deps, kept))) return kept;
  const link = `${origin}/join${name === null ? '' : `?name=${encodeURIComponent(name)}`}#${await inviteFirst(deps)}`;
  // The file is made anew: an older one may have been opened to others.
  await rm(path, { force: true });
  await writeFile(path, `${link}\n`, { mode: 0o600, flag: 'wx' });
  return link;
}

async function isOpen({ db, clock }: Pick<Deps, 'db' | 'clock'>, link: string): Promise<boolean> {
  const found = await invitationByHash(db, sha256(link.split('#')[1] ?? ''));
  return found !== undefined && found.row.overAt === null && found.row.expiresAt > clock();
}

/** Writes an invitation of nobody's. Returns its key. */
async function inviteFirst(deps: Pick<Deps, 'db' | 'clock' | 'newId'>): Promise<string> {
  const key = randomBytes(32).toString('base64url');
  const at = deps.clock();
  const id = deps.newId();
  await inTransaction(deps.db, async (tx) => {
    await insertInvitation(tx, {
      id,
      hash: sha256(key),
      projectId: null,
      role: 'operator',
      personId: null,
      madeAt: at,
      expiresAt: later(at, lastsMs),
      overAt: null,
      usedBy: null,
    });
    decide(tx, {
      at,
      kind: 'person.invited',
      project: null,
      doing: byVaquero,
      facts: { invitation: id, role: 'operator' },
    });
  });
  return key;
}
