import assert from 'node:assert/strict';
import { createHash, randomBytes } from 'node:crypto';
import { join } from 'node:path';
import test from 'node:test';
import type { Instant } from '@vaquero/core';
import { asc, eq, sql } from 'drizzle-orm';
import mysql from 'mysql2/promise';
import { applyMigrations } from '../database/migrate.ts';
import { type OpenDatabase, openDatabase } from '../database/pool.ts';
import { logEntries, logHead, logPersonal, people } from '../database/tables.ts';
import { atEnd, errnoOf, inTransaction, isAway, isDuplicate } from '../database/transaction.ts';
import { byVaquero, type Decided, record } from './record.ts';

async function ownDatabase(): Promise<OpenDatabase> {
  const server = process.env.VAQUERO_TEST_DATABASE ?? assert.fail('run tests with npm test');
  const name = `vaquero_${randomBytes(8).toString('hex')}`;
  const admin = await mysql.createConnection(server.replace('mariadb:', 'mysql:'));
  await admin.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin`);
  await admin.end();
  const url = server.replace(/\/vaquero$/, `/${name}`);
  await applyMigrations(url, join(import.meta.dirname, '../../migrations'));
  return openDatabase(url);
}

const decided = (kind: string, more: Partial<Decided> = {}): Decided => ({
  at: 1000 as Instant,
  kind,
  projectId: null,
  project: null,
  doing: byVaquero,
  facts: {},
  ...more,
});

test('positions have no gap and no double, however many decide at once, and a rollback takes none', async (t) => {
  const { db, close } = await ownDatabase();
  t.after(close);
  const outcomes = await Promise.allSettled(
    Array.from({ length: 60 }, (_, number) =>
      inTransaction(db, async (tx) => {
        const position = await record(tx, decided(`test.${number}`));
        if (number % 3 === 0) throw new Error('changed my mind');
        return position;
      }),
    ),
  );
  const positions = outcomes.flatMap((one) => (one.status === 'fulfilled' ? [one.value] : []));
  assert.deepEqual(
    positions.toSorted((a, b) => a - b),
    Array.from({ length: 40 }, (_, place) => place + 1),
  );
  const rows = await db.select().from(logEntries).orderBy(asc(logEntries.position));
  assert.deepEqual(
    rows.map((row) => (JSON.parse(row.bytes) as { position: number }).position),
    rows.map((row) => row.position),
  );
  assert.deepEqual(await db.select().from(logHead), [{ id: 1, position: 40 }]);
});

test('where a decision came from is kept beside the log, so that it can be forgotten without breaking it', async (t) => {
  const { db, close } = await ownDatabase();
  t.after(close);
  const doing = {
    actor: { kind: 'person' as const, id: 'p1' },
    through: 'cli',
    origin: '192.0.2.7',
  };
  const position = await inTransaction(db, (tx) => record(tx, decided('test.one', { doing })));
  const [entry] = await db.select().from(logEntries);
  const [personal] = await db.select().from(logPersonal).where(eq(logPersonal.position, position));
  assert.ok(entry !== undefined && personal !== undefined);
  assert.doesNotMatch(entry.bytes, /192\.0\.2\.7/);
  const hash = createHash('sha256').update(`${personal.salt}192.0.2.7`).digest('hex');
  assert.equal((JSON.parse(entry.bytes) as { origin: string }).origin, hash);
  await db.delete(logPersonal);
  assert.equal(entry.leaf, createHash('sha256').update(`\0${entry.bytes}`).digest('hex'));
});

test('what is put at the end of a transaction is carried out with its commit, all or nothing, in order', async (t) => {
  const { db, close } = await ownDatabase();
  t.after(close);
  const person = (id: string) => ({ id, name: id, shownAs: id, passwordHash: null, madeAt: 1 });
  const names = async () =>
    (await db.select().from(people).orderBy(asc(people.id))).map((row) => row.shownAs);
  await inTransaction(db, async (tx) => {
    atEnd(tx, tx.insert(people).values(person('a')));
    atEnd(tx, tx.update(people).set({ shownAs: 'A' }).where(eq(people.id, 'a')));
    assert.deepEqual(await tx.select().from(people), [], 'not before');
  });
  assert.deepEqual(await names(), ['A']);
  const twice = inTransaction(db, async (tx) => {
    await tx.insert(people).values(person('b'));
    atEnd(tx, tx.insert(people).values(person('c')), tx.insert(people).values(person('a')));
    atEnd(tx, tx.insert(people).values(person('d')));
  });
  await assert.rejects(twice, (error) => isDuplicate(error));
  await assert.rejects(
    inTransaction(db, async (tx) => {
      atEnd(tx, tx.insert(people).values(person('e')));
      throw new Error('changed my mind');
    }),
    /changed my mind/,
  );
  // The connection is lent again, and nothing of what failed is left on it.
  await inTransaction(db, async (tx) => {
    await tx.insert(people).values(person('f'));
  });
  assert.deepEqual(await names(), ['A', 'f']);
});

test('a connection that broke inside a transaction is not lent again', async (t) => {
  const { db, close } = await ownDatabase();
  t.after(close);
  const broken = inTransaction(db, async (tx) => {
    const [rows] = await tx.execute(sql`select connection_id() as id`);
    await db.execute(sql`kill ${sql.raw(String((rows as unknown as { id: number }[])[0]?.id))}`);
    await tx.select().from(people);
  });
  await assert.rejects(broken, (error) => isAway(error));
  assert.deepEqual(await inTransaction(db, (tx) => tx.select().from(people)), []);
});

test('a deadlock is tried again; a duplicate and an absent server are told apart', async (t) => {
  const { db, close } = await ownDatabase();
  t.after(close);
  const person = (id: string) => ({ id, name: id, shownAs: id, passwordHash: null, madeAt: 1 });
  await db.insert(people).values([person('a'), person('b')]);
  // Each takes the other's row second: the server ends one of the two, and it begins again.
  let runs = 0;
  const both = (first: string, second: string) =>
    inTransaction(db, async (tx) => {
      runs += 1;
      await tx.update(people).set({ madeAt: runs }).where(eq(people.id, first));
      await new Promise((resolve) => setTimeout(resolve, 60));
      await tx.update(people).set({ madeAt: runs }).where(eq(people.id, second));
    });
  await Promise.all([both('a', 'b'), both('b', 'a')]);
  assert.ok(runs >= 3, `ran ${runs} times`);
  const twice = await db
    .insert(people)
    .values(person('a'))
    .then(
      () => null,
      (error: unknown) => error,
    );
  assert.equal(isDuplicate(twice), true);
  assert.equal(errnoOf(twice), 1062);
  assert.equal(isAway(twice), false);
  const nobody = openDatabase('mariadb://a:b@127.0.0.1:9/c');
  t.after(nobody.close);
  const absent = await nobody.db
    .select()
    .from(people)
    .then(
      () => null,
      (error: unknown) => error,
    );
  assert.equal(isAway(absent), true);
  assert.equal(isDuplicate(absent), false);
});
