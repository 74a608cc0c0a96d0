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
    select uuid(), 'production', seq, 'automatic', 'b', repeat('c', 40), repeat('a', 64), '{}',
      seq, 'm', 'cli', seq, if(seq > ${many - 2}, null, seq), seq from ${sequence}`);
  await deps.db.execute(sql`analyze table deploys`);
  const planOf = async (statement: ReturnType<typeof sql>) => {
    const [plans] = await deps.db.execute(sql`explain ${statement}`);
    const [plan] = plans as unknown as { key: string | null; rows: number }[];
    return { key: plan?.key, isFew: (plan?.rows ?? many) < 100 };
  };
  // As confirmUpTo says it after each move.
  const unconfirmed = sql`update deploys set confirmed_at = 1
    where confirmed_at is null and position between 1 and ${many}`;
  assert.deepEqual(await planOf(unconfirmed), { key: 'deploys_unconfirmed', isFew: true });
  // As a page of the history, and what was live at an instant, are asked for.
  const page = sql`select * from deploys where environment_id = 'production' and number < ${many - 10}
    order by number desc limit 30`;
  assert.equal((await planOf(page)).key, 'deploys_number');
  const live = sql`select number from deploys where environment_id = 'production' and committed_at < ${many - 10}
    order by committed_at desc, number desc limit 1`;
  assert.equal((await planOf(live)).key, 'deploys_at');
});
