import { type CommitId, type Instant, type PullRequest, pullRequestOf } from '@vaquero/core';
import { and, asc, desc, eq, inArray, isNotNull, isNull, lt, or, type SQL } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { people, pullRequests, pullRequestWords } from '../database/tables.ts';
import { nextPullRequest } from '../projects/project-rows.ts';

/** A pull request with what only its row tells. */
export interface PullRequestRow extends PullRequest {
  readonly id: string;
  readonly title: string;
  readonly personId: string;
  readonly openedAt: Instant;
  readonly endedAt: Instant | null;
  readonly trouble: string | null;
}

function readRow(row: typeof pullRequests.$inferSelect): PullRequestRow {
  const { id, number, into, state, isDraft, title, personId, trouble } = row;
  return {
    id,
    number,
    into,
    state,
    isDraft,
    title,
    personId,
    trouble,
    from: { place: row.fromPlace, branch: row.fromBranch },
    // Written only from what Git or a branded value said.
    head: row.head,
    openedAt: row.openedAt as Instant,
    endedAt: row.endedAt as Instant | null,
  };
}

/** Who opened pull requests, by number. */
export async function openersOf(
  db: Db,
  repositoryId: string,
  numbers: readonly number[],
): Promise<ReadonlyMap<number, { readonly name: string; readonly shownAs: string }>> {
  if (numbers.length === 0) return new Map();
  const rows = await db
    .select({ number: pullRequests.number, name: people.name, shownAs: people.shownAs })
    .from(pullRequests)
    .innerJoin(people, eq(people.id, pullRequests.personId))
    .where(
      and(eq(pullRequests.repositoryId, repositoryId), inArray(pullRequests.number, [...numbers])),
    );
  return new Map(rows.map(({ number, ...opener }) => [number, opener]));
}

export async function openPullRequests(
  db: Db | Tx,
  repositoryId: string,
): Promise<readonly PullRequestRow[]> {
  const rows = await db
    .select()
    .from(pullRequests)
    .where(and(eq(pullRequests.repositoryId, repositoryId), eq(pullRequests.state, 'open')));
  return rows.map(readRow);
}

/**
 * So many of a repository's, behind one of them or (null) from the first: open ones by number, then those that have
 * ended, the last end first.
 */
export async function pullRequestsBehind(
  db: Db,
  repositoryId: string,
  behind: PullRequestRow | null,
  most: number,
): Promise<readonly PullRequestRow[]> {
  const wasOpen = behind === null || behind.state === 'open';
  const open = wasOpen ? await openPullRequests(db, repositoryId) : [];
  const first = open
    .toSorted((a, b) => b.number - a.number)
    .filter(({ number }) => behind === null || number < behind.number)
    .slice(0, most);
  if (first.length === most) return first;
  // Behind the open ones all that have ended come, from the last end on.
  const ends = wasOpen ? [] : [endedBefore(behind)];
  const rows = await db
    .select()
    .from(pullRequests)
    .where(
      and(eq(pullRequests.repositoryId, repositoryId), isNotNull(pullRequests.endedAt), ...ends),
    )
    .orderBy(desc(pullRequests.endedAt), desc(pullRequests.number))
    .limit(most - first.length);
  return [...first, ...rows.map(readRow)];
}

function endedBefore({ endedAt, number }: PullRequestRow): SQL | undefined {
  const at = endedAt ?? 0;
  return or(
    lt(pullRequests.endedAt, at),
    and(eq(pullRequests.endedAt, at), lt(pullRequests.number, number)),
  );
}

export async function pullRequestByNumber(
  db: Db | Tx,
  repositoryId: string,
  number: number,
  lock = false,
): Promise<PullRequestRow | undefined> {
  const query = db
    .select()
    .from(pullRequests)
    .where(and(eq(pullRequests.repositoryId, repositoryId), eq(pullRequests.number, number)));
  const [row] = await (lock ? query.for('update') : query);
  return row === undefined ? undefined : readRow(row);
}

/** Whether a ref is the head of a draft: what is built of it reaches no environment yet. */
export async function isDraft(
  db: Db | Tx,
  { repositoryId }: { readonly repositoryId: string },
  ref: string,
): Promise<boolean> {
  const number = pullRequestOf(ref);
  if (number === undefined) return false;
  const pull = await pullRequestByNumber(db, repositoryId, number);
  return pull?.isDraft === true;
}

/** Open ones of outsiders, whose branches nobody rings for; those that were opened first come first. */
export async function openOutsiders(
  db: Db,
): Promise<readonly { readonly repositoryId: string; readonly pull: PullRequestRow }[]> {
  const rows = await db
    .select()
    .from(pullRequests)
    .where(and(eq(pullRequests.state, 'open'), isNotNull(pullRequests.fromPlace)))
    .orderBy(asc(pullRequests.id));
  return rows.map((row) => ({ repositoryId: row.repositoryId, pull: readRow(row) }));
}

/** The outsider's pull request that was opened first among those whose head nobody gave a word for. */
export async function longestWaitingForWord(
  db: Db,
  { id, repositoryId }: { readonly id: string; readonly repositoryId: string },
): Promise<PullRequestRow | null> {
  const [row] = await db
    .select({ pull: pullRequests })
    .from(pullRequests)
    .leftJoin(
      pullRequestWords,
      and(
        eq(pullRequestWords.pullRequestId, pullRequests.id),
        eq(pullRequestWords.projectId, id),
        eq(pullRequestWords.commitId, pullRequests.head),
      ),
    )
    .where(
      and(
        eq(pullRequests.repositoryId, repositoryId),
        eq(pullRequests.state, 'open'),
        isNotNull(pullRequests.fromPlace),
        isNotNull(pullRequests.head),
        isNull(pullRequestWords.commitId),
      ),
    )
    .orderBy(asc(pullRequests.openedAt))
    .limit(1);
  return row === undefined ? null : readRow(row.pull);
}

/** Writes a new one under the next number of its repository, whose row is locked by it. */
export async function insertPullRequest(
  tx: Tx,
  repositoryId: string,
  row: Pick<PullRequestRow, 'id' | 'title' | 'into' | 'from' | 'isDraft' | 'personId' | 'openedAt'>,
): Promise<number> {
  const number = await nextPullRequest(tx, repositoryId);
  const { id, title, into, from, isDraft, personId, openedAt } = row;
  await tx.insert(pullRequests).values({
    id,
    repositoryId,
    number,
    title,
    into,
    isDraft,
    fromPlace: from.place,
    fromBranch: from.branch,
    personId,
    openedAt,
  });
  return number;
}

/** Writes what a look or a person makes of an open one; false when it is open no more. */
export async function setPullRequest(
  db: Db | Tx,
  id: string,
  change: Partial<{
    readonly head: CommitId;
    readonly into: string;
    readonly isDraft: boolean;
    readonly state: 'merged' | 'closed';
    readonly endedAt: Instant;
    readonly trouble: string | null;
  }>,
): Promise<boolean> {
  const [done] = await db
    .update(pullRequests)
    .set(change)
    .where(and(eq(pullRequests.id, id), eq(pullRequests.state, 'open')));
  return done.affectedRows === 1;
}

/** Opens a closed one again; false when it is not closed. */
export async function reopenRow(tx: Tx, id: string): Promise<boolean> {
  const [done] = await tx
    .update(pullRequests)
    .set({ state: 'open', endedAt: null })
    .where(and(eq(pullRequests.id, id), eq(pullRequests.state, 'closed')));
  return done.affectedRows === 1;
}

/** A member's word for a commit. */
export interface WordRow {
  readonly by: string;
  readonly at: Instant;
}

export async function wordFor(
  db: Db | Tx,
  pullRequestId: string,
  projectId: string,
  commitId: CommitId,
): Promise<WordRow | null> {
  const [row] = await db
    .select({ by: people.shownAs, at: pullRequestWords.at })
    .from(pullRequestWords)
    .innerJoin(people, eq(people.id, pullRequestWords.personId))
    .where(
      and(
        eq(pullRequestWords.pullRequestId, pullRequestId),
        eq(pullRequestWords.projectId, projectId),
        eq(pullRequestWords.commitId, commitId),
      ),
    );
  return row === undefined ? null : { by: row.by, at: row.at as Instant };
}

/** Keeps a word; the pull request is locked, and none was given for the commit before. */
export async function insertWord(
  tx: Tx,
  word: typeof pullRequestWords.$inferInsert,
): Promise<void> {
  await tx.insert(pullRequestWords).values(word);
}
