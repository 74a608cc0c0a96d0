import assert from 'node:assert/strict';
import test from 'node:test';
import type { Instant } from '@vaquero/core';
import { eq, sql } from 'drizzle-orm';
import { databaseForTests } from '../database/database-for-tests.ts';
import { attempts } from '../database/tables.ts';
import { keepLog, packLog, readLog, segmentsOf } from './log-rows.ts';

test('whoever reads a log while it is packed has all of it', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  for (let round = 0; round < 60; round += 1) {
    const id = `attempt-${round}`;
    await db.insert(attempts).values({
      id,
      buildId: 'b',
      fence: round,
      runnerId: 'r',
      instance: 'i',
      credentialHash: String(round).padStart(64, '0'),
      state: 'failed',
      leaseUntil: sql`now(3)`,
    });
    const segments = [{ offset: 0, step: 'pages', at: 1 as Instant }];
    const bytes = Buffer.from(`no space left, round ${round}\n`);
    assert.ok(await keepLog(db, { id, logBytes: 0 }, { offset: 0, bytes, segments }));
    const readers = Array.from({ length: 6 }, async (_, place) => {
      // Each begins a little later than the one before.
      for (let turn = 0; turn < place; turn += 1)
        await db.select({ id: attempts.id }).from(attempts).where(eq(attempts.id, id));
      return [String(await readLog(db, id, 0)), (await segmentsOf(db, id)).length] as const;
    });
    const [, ...read] = await Promise.all([packLog(db, id), ...readers]);
    for (const one of read) assert.deepEqual(one, [String(bytes), 1], id);
  }
});
