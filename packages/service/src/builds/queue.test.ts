import assert from 'node:assert/strict';
import test from 'node:test';
import { sql } from 'drizzle-orm';
import { databaseForTests, projectIn } from '../database/database-for-tests.ts';
import { nextWaiting } from './queue-rows.ts';

const early = '019aabce-0000-7000-8000-';
const late = '019aabcf-0000-7000-8000-';
const urgent = `${late}000000000001`;

test('a build of production is begun first, also behind a thousand others', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const project = await projectIn(db);
  const queue = (from: string, priority: number, needs: string | null) => sql`
    select concat(${from}, lpad(seq, 12, '0')), ${project}, seq + ${priority * 2000}, 'queued', 'refs/heads/main', repeat('c', 20), '', '', 0, '', ${needs}, ${priority}, 0`;
  const columns = sql`insert into builds
    (id, project_id, number, state, ref, commit_id, subject, author, committed_at, cause, needs, priority, queued_at)`;
  await db.execute(sql`${columns} ${queue(early, 0, null)} from seq_1_to_1000`);
  assert.equal((await nextWaiting(db, []))?.id, `${early}000000000001`, 'who waits longest');
  await db.execute(sql`${columns} ${queue(late, 2, null)} from seq_1_to_1`);
  assert.equal((await nextWaiting(db, []))?.id, urgent);
  // One that no runner here may take keeps nobody waiting.
  await db.execute(sql`update builds set needs = '["large"]' where id = ${urgent}`);
  assert.equal((await nextWaiting(db, []))?.id, `${early}000000000001`);
  assert.equal((await nextWaiting(db, ['large']))?.id, urgent);
});
