import assert from 'node:assert/strict';
import test from 'node:test';
import type { CommitId, Digest, Instant } from '@vaquero/core';
import { eq, sql } from 'drizzle-orm';
import { uuidv7 } from 'uuidv7';
import { buildIn, databaseForTests } from './database-for-tests.ts';
import { strayRows } from './stray-rows.ts';
import { builds, deploys, environments, grants, people } from './tables.ts';
import { errnoOf, isDuplicate } from './transaction.ts';

const notThere = 1452;
const asPerson = { name: 'ines', shownAs: 'Ines', passwordHash: null, madeAt: 0 };

async function errorOf(work: PromiseLike<unknown>): Promise<unknown> {
  return work.then(
    () => assert.fail('it was taken'),
    (error: unknown) => error,
  );
}

test('what is kept as bytes comes back as it was, and what is no id, digest or commit is not asked for', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const id = await buildIn(db);
  const [artifact, commitId] = ['0a'.repeat(32) as Digest, 'f0'.repeat(20) as CommitId];
  await db.update(builds).set({ artifact, commitId }).where(eq(builds.id, id));
  const [kept] = await db.select().from(builds).where(eq(builds.artifact, artifact));
  assert.deepEqual([kept?.id, kept?.artifact, kept?.commitId], [id, artifact, commitId]);
  const long = 'f1'.repeat(32) as CommitId;
  await db.update(builds).set({ commitId: long }).where(eq(builds.id, id));
  const [grown] = await db.select({ commit: builds.commitId }).from(builds);
  assert.equal(grown?.commit, long, 'a name of SHA-256 is kept whole');
  for (const [column, text] of [
    [builds.id, 'old-1'],
    [builds.artifact, artifact.slice(2)],
    [builds.commitId, 'HEAD'],
  ] as const)
    await assert.rejects(
      async () =>
        db
          .select()
          .from(builds)
          .where(eq(column, text as never)),
      (error) => /is no (?:id|digest|commit)/.test(String(error)),
    );
});

test('ids sort by when they were made, as every list of the newest needs it', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const ids = Array.from({ length: 50 }, () => uuidv7());
  for (const id of ids.toReversed())
    await db.insert(people).values({ ...asPerson, id, name: id.slice(0, 36) });
  const rows = await db.select({ id: people.id }).from(people).orderBy(people.id);
  assert.deepEqual(
    rows.map((row) => row.id),
    ids,
  );
});

test('the database takes no word that is none of a list, no second grant for a place, and nothing of somebody who is not there', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const build = await buildIn(db);
  const wrong = await errorOf(db.execute(sql`update builds set state = 'almost'`));
  assert.match(String((wrong as Error).cause), /Data truncated/);
  const personId = uuidv7();
  await db.insert(people).values({ ...asPerson, id: personId });
  const [made] = await db.select().from(builds).where(eq(builds.id, build));
  for (const projectId of [null, made?.projectId ?? null]) {
    const grant = { personId, projectId, role: 'reader' } as const;
    await db.insert(grants).values({ ...grant, id: uuidv7() });
    const twice = db.insert(grants).values({ ...grant, role: 'builder', id: uuidv7() });
    assert.ok(isDuplicate(await errorOf(twice)), `two for ${projectId}`);
  }
  const nobody = uuidv7();
  const stray = db
    .insert(grants)
    .values({ id: uuidv7(), personId: nobody, projectId: null, role: 'operator' });
  assert.equal(errnoOf(await errorOf(stray)), notThere);
});

test('rows that refer to nothing, where no constraint stands, are found and counted', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const build = await buildIn(db);
  const [made] = await db.select().from(builds).where(eq(builds.id, build));
  const [environment, deploy] = [uuidv7(), uuidv7()];
  await db
    .insert(environments)
    .values({ id: environment, projectId: made?.projectId ?? '', name: 'staging', place: 0 });
  const moved = {
    environmentId: environment,
    kind: 'automatic',
    buildId: build,
    commitId: 'c'.repeat(40) as CommitId,
    artifact: 'a'.repeat(64) as Digest,
    configuration: {},
    intake: 1,
    through: 'git',
    committedAt: 0,
  } as const;
  await db.insert(deploys).values({ ...moved, id: deploy, number: 1, moveId: uuidv7() });
  await db.update(environments).set({ servesDeployId: deploy });
  assert.deepEqual(await strayRows(db, 0 as Instant), []);
  const lost = { ...moved, buildId: uuidv7() };
  await db.insert(deploys).values({ ...lost, id: uuidv7(), number: 2, moveId: uuidv7() });
  await db.update(environments).set({ servesDeployId: uuidv7() });
  assert.deepEqual(await strayRows(db, 0 as Instant), [
    { from: 'deploys.build_id', rows: 1 },
    { from: 'environments.serves_deploy_id', rows: 1 },
  ]);
  const later = (Date.now() + 60_000) as Instant;
  assert.deepEqual(await strayRows(db, later), [], 'what is older is not read again');
});
