import assert from 'node:assert/strict';
import test from 'node:test';
import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import { databaseForTests } from './database-for-tests.ts';
import { giveBackLeases, LeaseLost, onlyOne, requireLease, takeLease } from './leases.ts';
import { inTransaction } from './transaction.ts';

const [a, b, c] = ['a', 'b', 'c'].map((digit) => `019aabce-0000-7000-8000-00000000000${digit}`) as [
  string,
  string,
  string,
];

test('a lease has one holder at a time, and whoever lost it can write nothing by it', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const taken = await Promise.all([a, b, c].map((holder) => takeLease(db, 'looks', holder)));
  const [held] = taken.filter((lease) => lease !== null);
  assert.ok(held !== undefined && taken.filter((lease) => lease !== null).length === 1);
  assert.deepEqual(await takeLease(db, 'looks', held.holder), held, 'renewed, it is the same');
  await inTransaction(db, (tx) => requireLease(tx, held));

  // Its holder stands still for longer than the lease.
  await db.execute(sql`update leases set until = date_sub(now(3), interval 1 second)`);
  await assert.rejects(
    inTransaction(db, (tx) => requireLease(tx, held)),
    LeaseLost,
  );
  const other = held.holder === a ? b : a;
  const next = (await takeLease(db, 'looks', other)) ?? assert.fail();
  assert.equal(next.fence, held.fence + 1);
  assert.equal(await takeLease(db, 'looks', held.holder), null);
  await assert.rejects(
    inTransaction(db, (tx) => requireLease(tx, held)),
    LeaseLost,
  );
  // Given back, it is free at once.
  await giveBackLeases(db, other);
  assert.equal((await takeLease(db, 'looks', held.holder))?.fence, held.fence + 2);
});

test('of the loops of several processes one takes its turn', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const log = pino({ level: 'silent' });
  const turns: string[] = [];
  const processes = [a, b].map((instance) => ({ db, log, instance }));
  const loops = processes.map((process) =>
    onlyOne(process, 'sweeps', ({ holder }) => {
      turns.push(holder);
      return Promise.resolve();
    }),
  );
  for (let round = 0; round < 3; round += 1) await Promise.all(loops.map((turn) => turn()));
  assert.equal(turns.length, 3);
  assert.equal(new Set(turns).size, 1);
  await giveBackLeases(db, turns[0] ?? '');
  const other = loops[turns[0] === a ? 1 : 0];
  await other?.();
  assert.notEqual(turns[3], turns[0]);
});
