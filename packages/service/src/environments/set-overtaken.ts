import { acceptsFrom, mapOne } from '@vaquero/core';
import { eq } from 'drizzle-orm';
import { decide } from '../audit/record.ts';
import { environments } from '../database/tables.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import type { Caller } from '../people/caller.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';
import { environmentByName } from './environment-rows.ts';

/**
 * Says what a newer commit does to the build of an older one that has not ended: lets it finish, or stops it.
 * Refuses: not-found; never-overtaken for an environment that follows no ref.
 */
export async function setOvertaken(
  deps: Deps,
  project: ProjectRow,
  name: string,
  overtaken: 'finish' | 'stop',
  caller: Caller,
): Promise<{ environment: string; overtaken: 'finish' | 'stop' }> {
  await inTransaction(deps.db, async (tx) => {
    const environment = await environmentByName(tx, project.id, name);
    if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
    if (acceptsFrom(mapOne(project.branch), name) !== null && overtaken === 'stop')
      return refused({ code: 'never-overtaken', environment: name });
    await tx.update(environments).set({ overtaken }).where(eq(environments.id, environment.id));
    decide(tx, {
      at: deps.clock(),
      kind: 'environment.set',
      project,
      doing: caller.doing,
      facts: { environment: name },
      before: { overtaken: environment.overtaken },
      after: { overtaken },
    });
  });
  return { environment: name, overtaken };
}
