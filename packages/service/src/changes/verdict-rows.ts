import type { CommitId, Instant, Verdict } from '@vaquero/core';
import { and, desc, eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { people, pullRequestVerdicts } from '../database/tables.ts';

const mostShown = 50;

/** What a member said of a commit. */
export interface VerdictRow {
  readonly name: string;
  readonly by: string;
  readonly verdict: Verdict;
  readonly says: string;
  readonly commit: CommitId;
  readonly at: Instant;
}

/** What members of a project said of a pull request's commits, newest first. */
export async function verdictsOf(
  db: Db,
  pullRequestId: string,
  projectId: string,
): Promise<readonly VerdictRow[]> {
  const rows = await db
    .select({ name: people.name, by: people.shownAs, row: pullRequestVerdicts })
    .from(pullRequestVerdicts)
    .innerJoin(people, eq(people.id, pullRequestVerdicts.personId))
    .where(
      and(
        eq(pullRequestVerdicts.pullRequestId, pullRequestId),
        eq(pullRequestVerdicts.projectId, projectId),
      ),
    )
    .orderBy(desc(pullRequestVerdicts.at))
    .limit(mostShown);
  return rows.map(({ name, by, row: { verdict, says, commitId, at } }) => {
    // Written only from a branded value.
    return { name, by, verdict, says, commit: commitId, at: at as Instant };
  });
}

/** Keeps a verdict in place of the one that the person gave of the same commit before. */
export async function putVerdict(
  tx: Tx,
  row: typeof pullRequestVerdicts.$inferInsert,
): Promise<void> {
  const { verdict, says, at } = row;
  await tx
    .insert(pullRequestVerdicts)
    .values(row)
    .onDuplicateKeyUpdate({ set: { verdict, says, at } });
}
