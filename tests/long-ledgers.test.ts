import assert from 'node:assert/strict';
import test from 'node:test';
import { sql } from 'drizzle-orm';
import { startTestService } from './support/service.ts';

const many = 5000;

test('what a move asks of the ledger is found by an index, however long the ledger is', async (t) => {
  const { deps } = await startTestService(t, { roles: [] });
  const sequence = sql.raw(`seq_1_to_${many}`);
  await deps.db.execute(sql`
    insert into deploys (id, environment_id, number, kind, build_id, commit_id, artifact, configuration,
      intake, move_id, through, committed_at, confirmed_at, position)
    select uuid(), 'production', seq, 'automatic', concat('b', seq % 200), repeat('c', 40), repeat('a', 64), '{}',
      seq, 'm', 'cli', seq, if(seq > ${many - 2}, null, seq), seq from ${sequence}`);
  await deps.db.execute(sql`
    insert into builds (id, project_id, number, state, ref, commit_id, subject, author, committed_at, cause, queued_at)
    select concat('b', seq), 'p', seq, 'passed', 'refs/heads/main', repeat('c', 40), '', '', 0, '', 0 from seq_0_to_199`);
  await deps.db.execute(sql`
    insert into artifacts (project_id, digest, build_id, files, bytes, stored_at)
    values ('p', repeat('a', 64), 'b0', 1, 1, 0)`);
  await deps.db.execute(sql`analyze table deploys, builds, artifacts`);
  const plansOf = async (statement: ReturnType<typeof sql>) => {
    const [plans] = await deps.db.execute(sql`explain ${statement}`);
    return (plans as unknown as { key: string | null; rows: number }[]).map(({ key, rows }) => ({
      key,
      isFew: rows < 100,
    }));
  };
  const planOf = async (statement: ReturnType<typeof sql>) => (await plansOf(statement))[0];
  // As confirmUpTo says it after each move.
  const unconfirmed = sql`update deploys set confirmed_at = 1
    where confirmed_at is null and position between 1 and ${many}`;
  assert.deepEqual(await planOf(unconfirmed), { key: 'deploys_unconfirmed', isFew: true });
  // As a page of the history, and what was live at an instant, are asked for.
  const page = sql`select * from deploys where environment_id = 'production' and number < ${many - 10}
    order by number desc limit 30`;
  assert.equal((await planOf(page))?.key, 'deploys_number');
  const live = sql`select number from deploys where environment_id = 'production' and committed_at < ${many - 10}
    order by committed_at desc, number desc limit 1`;
  assert.equal((await planOf(live))?.key, 'deploys_at');
  // As the way back to a build is found.
  const back = sql`select deploys.number from deploys inner join builds on builds.id = deploys.build_id
    inner join artifacts on artifacts.project_id = builds.project_id and artifacts.digest = deploys.artifact
    where deploys.environment_id = 'production' and builds.project_id = 'p' and builds.number = 7
    order by deploys.number desc limit 1`;
  assert.deepEqual(
    new Set(await plansOf(back)),
    new Set(['builds_number', 'deploys_build', 'PRIMARY'].map((key) => ({ key, isFew: true }))),
  );
});
