import assert from 'node:assert/strict';
import test from 'node:test';
import { uuidv7 } from 'uuidv7';
import { type PullRequestRow, pullRequestsBehind } from '../changes/pull-request-rows.ts';
import { databaseForTests, projectIn } from '../database/database-for-tests.ts';
import { people, projects, pullRequests } from '../database/tables.ts';

test('pages of any size hold each pull request once: open ones first, then the last end first', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  await projectIn(db);
  const [project] = await db.select().from(projects);
  const [personId, repositoryId] = [uuidv7(), project?.repositoryId ?? ''];
  await db
    .insert(people)
    .values({ id: personId, name: 'ines', shownAs: 'Ines', passwordHash: null, madeAt: 0 });
  const ended = { 1: 50, 2: null, 3: 70, 4: 50, 5: null, 6: 10, 7: null } as const;
  for (const [number, endedAt] of Object.entries(ended))
    await db.insert(pullRequests).values({
      id: uuidv7(),
      repositoryId,
      number: Number(number),
      title: '',
      into: 'main',
      fromBranch: `try/${number}`,
      state: endedAt === null ? 'open' : 'closed',
      personId,
      openedAt: 0,
      endedAt,
    });
  for (const size of [1, 2, 3, 4, 7, 50]) {
    const seen: number[] = [];
    for (let behind: PullRequestRow | null = null; ; ) {
      const page: readonly PullRequestRow[] = await pullRequestsBehind(
        db,
        repositoryId,
        behind,
        size,
      );
      seen.push(...page.map(({ number }) => number));
      behind = page.at(-1) ?? null;
      if (page.length < size) break;
    }
    assert.deepEqual(seen, [7, 5, 2, 3, 4, 1, 6], `in pages of ${size}`);
  }
});
