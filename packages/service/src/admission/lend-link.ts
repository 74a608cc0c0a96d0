import { randomBytes } from 'node:crypto';
import { admissionPath, admitsOf, type Digest } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { inTransaction } from '../database/transaction.ts';
import { environmentByName, lockEnvironments, setLink } from '../environments/environment-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { publishTable } from '../routing/publish-table.ts';

interface Lending {
  readonly project: ProjectRow;
  readonly name: string;
  readonly caller: Caller;
}

/** Lends a link for an environment whose rule admits by one; the one before opens nothing any more. Refuses: not-found, not-lent. */
export async function lendLink(
  deps: Deps,
  { project, name, caller }: Lending,
): Promise<{ environment: string; address: string }> {
  const environment = await environmentByName(deps.db, project.id, name);
  if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
  const admits = admitsOf(await mapOf(deps.db, project), environment.rule);
  if (admits !== 'link') return refused({ code: 'not-lent', environment: name, admits });
  const secret = randomBytes(24).toString('base64url');
  await setLinkOf(deps, { project, name, caller }, environment.id, sha256(secret));
  const address = addressOf(hostOfEnvironment(deps.config, project.name, environment));
  return { environment: name, address: `${address}${admissionPath}link?key=${secret}` };
}

/** Closes the link that is lent for an environment, if one is. Refuses: not-found. */
export async function closeLink(deps: Deps, lending: Lending): Promise<void> {
  const { project, name } = lending;
  const environment = await environmentByName(deps.db, project.id, name);
  if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
  await setLinkOf(deps, lending, environment.id, null);
}

async function setLinkOf(
  deps: Deps,
  { project, name, caller }: Lending,
  id: string,
  hash: Digest | null,
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const row = (await lockEnvironments(tx, [id])).get(id);
    if (row?.living !== true) return refused({ code: 'not-found', what: 'environment', name });
    // Closed twice is closed once.
    if (hash === null && row.linkHash === null) return;
    const at = deps.clock();
    await setLink(tx, id, { linkHash: hash, linkBy: caller.personId, linkAt: at, actedAt: at });
    decide(tx, {
      at,
      kind: hash === null ? 'environment.link-closed' : 'environment.link-lent',
      project,
      doing: caller.doing,
      facts: { environment: name },
    });
  });
  await deps.edges.confirmed(await publishTable(deps), 1_000);
}
