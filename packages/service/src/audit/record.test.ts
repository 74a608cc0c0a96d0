import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { EventEmitter, once } from 'node:events';
import test from 'node:test';
import { type Instant, readEntry } from '@vaquero/core';
import { asc, eq, sql } from 'drizzle-orm';
import { pino } from 'pino';
import { databaseForTests } from '../database/database-for-tests.ts';
import { openDatabase } from '../database/pool.ts';
import { logEntries, logHead, logPersonal, people } from '../database/tables.ts';
import {
  afterCommit,
  errnoOf,
  inTransaction,
  isAway,
  isDuplicate,
  onCommit,
} from '../database/transaction.ts';
import type { Decided } from './doing.ts';
import { followLog } from './follow-log.ts';
import { byPerson, byVaquero, decide } from './record.ts';

const cancelled = (build: number, more: Partial<Pick<Decided, 'doing' | 'why'>> = {}): Decided => ({
  at: 1000 as Instant,
  kind: 'build.cancelled',
  project: null,
  doing: byVaquero,
  facts: { build },
  ...more,
});

const idOf = (digit: string) => `019aabce-0000-7000-8000-00000000000${digit}`;
const person = (name: string) => ({
  id: idOf(name),
  name,
  shownAs: name,
  passwordHash: null,
  madeAt: 1,
});

const buildsOf = (entries: readonly { readonly facts: { readonly build?: unknown } }[]) =>
  entries.map(({ facts }) => facts.build);

test('positions have no gap and no double, however many decide at once, and a rollback takes none', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const outcomes = await Promise.allSettled(
    Array.from({ length: 60 }, (_, number) =>
      inTransaction(db, (tx) => {
        const placed = decide(tx, cancelled(number));
        if (number % 3 === 0) throw new Error('changed my mind');
        return Promise.resolve(placed);
      }),
    ),
  );
  const positions = outcomes.flatMap((one) =>
    one.status === 'fulfilled' ? [one.value.position] : [],
  );
  assert.deepEqual(
    positions.toSorted((a, b) => a - b),
    Array.from({ length: 40 }, (_, place) => place + 1),
  );
  const rows = await db.select().from(logEntries).orderBy(asc(logEntries.position));
  assert.deepEqual(
    rows.map((row) => readEntry(row.bytes).position),
    rows.map((row) => row.position),
  );
  assert.deepEqual(await db.select().from(logHead), [{ id: 1, position: 40 }]);
});

test('a transaction that decides much lets others decide meanwhile, and no two wait for each other', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const [begun, goOn] = [new EventEmitter(), new EventEmitter()];
  const hasBegun = once(begun, 'now');
  const long = inTransaction(db, async (tx) => {
    for (let build = 0; build < 2500; build += 1) decide(tx, cancelled(build));
    const mayGoOn = once(goOn, 'now');
    begun.emit('now');
    await mayGoOn;
    // What it locks after it has decided is locked before the head all the same.
    await tx.insert(people).values(person('a'));
  });
  await hasBegun;
  const short = await inTransaction(db, async (tx) => {
    await tx.insert(people).values(person('b'));
    return decide(tx, cancelled(9999));
  });
  assert.equal(short.position, 1);
  goOn.emit('now');
  await long;
  const rows = await db.select().from(logEntries).orderBy(asc(logEntries.position));
  assert.deepEqual(buildsOf(rows.map((row) => readEntry(row.bytes))), [
    9999,
    ...Array.from({ length: 2500 }, (_, build) => build),
  ]);
});

test('whoever follows the log is told each decision once and in order, whichever process made it', async (t) => {
  const { url, ...one } = await databaseForTests();
  const other = openDatabase(url);
  t.after(() => Promise.all([one.close(), other.close()]));
  const log = pino({ level: 'silent' });
  const followers = [await followLog(one.db, log), await followLog(other.db, log)] as const;
  t.after(() => Promise.all(followers.map((follower) => follower.stop())));
  const heard = followers.map((follower) => {
    const positions: number[] = [];
    follower.listen(({ position }) => positions.push(position));
    return positions;
  });
  await Promise.all(
    Array.from({ length: 40 }, (_, build) =>
      inTransaction(build % 2 === 0 ? one.db : other.db, async (tx) => {
        decide(tx, cancelled(build));
        // Some begin early and end late: positions are those of their ends.
        if (build % 5 === 0) await tx.execute(sql`select sleep(0.02)`);
      }),
    ),
  );
  for (const follower of followers) await follower.catchUp();
  // An entry that somebody damaged keeps nobody from those behind it.
  await inTransaction(one.db, async (tx) => decide(tx, cancelled(40)));
  await one.db.update(logEntries).set({ bytes: '{' }).where(eq(logEntries.position, 41));
  await inTransaction(one.db, async (tx) => decide(tx, cancelled(41)));
  await followers[1].catchUp();
  assert.equal(followers[1].seen().position, 42);
  heard[1]?.splice(40);
  heard[0]?.splice(40);
  const all = Array.from({ length: 40 }, (_, place) => place + 1);
  assert.deepEqual(heard, [all, all]);
});

test('where a decision came from and why are kept beside the log: they can be forgotten without breaking it', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const doing = byPerson('p1', 'cli', {
    origin: '192.0.2.7',
    request: 'r1',
    by: { kind: 'token', id: 't1' },
  });
  await inTransaction(db, async (tx) => decide(tx, cancelled(7, { doing, why: 'wrong pier' })));
  const [row] = await db.select().from(logEntries);
  assert.ok(row !== undefined);
  assert.doesNotMatch(row.bytes, /192\.0\.2\.7|wrong pier/);
  const entry = readEntry(row.bytes);
  assert.deepEqual(
    [entry.form, entry.who, entry.request],
    [2, { kind: 'person', id: 'p1', by: { kind: 'token', id: 't1' } }, 'r1'],
  );
  const beside = await db.select().from(logPersonal).orderBy(asc(logPersonal.field));
  assert.deepEqual(
    beside.map(({ salt, value }) => createHash('sha256').update(`${salt}${value}`).digest('hex')),
    [entry.origin, entry.why],
  );
  await db.delete(logPersonal);
  assert.equal(row.leaf, createHash('sha256').update(`\0${row.bytes}`).digest('hex'));
});

test('what is put at the end of a transaction is carried out with its commit, all or nothing, in order', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const names = async () =>
    (await db.select().from(people).orderBy(asc(people.id))).map((row) => row.shownAs);
  await inTransaction(db, async (tx) => {
    onCommit(tx, tx.insert(people).values(person('a')));
    onCommit(
      tx,
      tx
        .update(people)
        .set({ shownAs: 'A' })
        .where(eq(people.id, idOf('a'))),
    );
    assert.deepEqual(await tx.select().from(people), [], 'not before');
  });
  assert.deepEqual(await names(), ['A']);
  const done: string[] = [];
  const twice = inTransaction(db, async (tx) => {
    await tx.insert(people).values(person('b'));
    afterCommit(tx, () => done.push('b'));
    onCommit(tx, tx.insert(people).values(person('c')), tx.insert(people).values(person('a')));
    onCommit(tx, tx.insert(people).values(person('d')));
  });
  await assert.rejects(twice, (error) => isDuplicate(error));
  await assert.rejects(
    inTransaction(db, async (tx) => {
      onCommit(tx, tx.insert(people).values(person('e')));
      throw new Error('changed my mind');
    }),
    /changed my mind/,
  );
  // The connection is lent again, and nothing of what failed is left on it.
  await inTransaction(db, async (tx) => {
    await tx.insert(people).values(person('f'));
    afterCommit(tx, () => done.push('f'));
    assert.deepEqual(done, []);
  });
  assert.deepEqual(await names(), ['A', 'f']);
  assert.deepEqual(done, ['f']);
});

test('a connection that broke inside a transaction is not lent again', async (t) => {
  const { db, close } = await databaseForTests();
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
  const { db, close } = await databaseForTests();
  t.after(close);
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
  await Promise.all([both(idOf('a'), idOf('b')), both(idOf('b'), idOf('a'))]);
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
