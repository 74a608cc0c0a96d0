import assert from 'node:assert/strict';
import test from 'node:test';
import { sql } from 'drizzle-orm';
import { databaseForTests } from '../database/database-for-tests.ts';
import { nextWaiting } from './queue.ts';

test('a build of production is begun first, also behind a thousand others', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const queue = (id: ReturnType<typeof sql>, priority: number, needs: string | null) => sql`
    select ${id}, 'p', seq + ${priority * 2000}, 'queued', 'refs/heads/main', repeat('c', 40), '', '', 0, '', ${needs}, ${priority}, 0`;
  const columns = sql`insert into builds
    (id, project_id, number, state, ref, commit_id, subject, author, committed_at, cause, needs, priority, queued_at)`;
  await db.execute(
    sql`${columns} ${queue(sql`concat('a', lpad(seq, 5, '0'))`, 0, null)} from seq_1_to_1000`,
  );
  assert.equal((await nextWaiting(db, []))?.id, 'a00001', 'who waits longest');
  await db.execute(sql`${columns} ${queue(sql`'z1'`, 2, null)} from seq_1_to_1`);
  assert.equal((await nextWaiting(db, []))?.id, 'z1');
  // One that no runner here may take keeps nobody waiting.
  await db.execute(sql`update builds set needs = '["large"]' where id = 'z1'`);
  assert.equal((await nextWaiting(db, []))?.id, 'a00001');
  assert.equal((await nextWaiting(db, ['large']))?.id, 'z1');
});
