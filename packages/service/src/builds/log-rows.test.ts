import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import test from 'node:test';
import { gzipSync } from 'node:zlib';
import type { Instant } from '@vaquero/core';
import { and, eq, sql } from 'drizzle-orm';
import { uuidv7 } from 'uuidv7';
import { sha256 } from '../base/sha256.ts';
import { buildIn, databaseForTests } from '../database/database-for-tests.ts';
import type { Db } from '../database/pool.ts';
import { attempts, logChunks } from '../database/tables.ts';
import { findLines } from './find-lines.ts';
import { keepLog, packLog, readLog, segmentsOf } from './log-rows.ts';

async function attemptIn(db: Db, fence: number): Promise<string> {
  const id = uuidv7();
  await db.insert(attempts).values({
    id,
    buildId: await buildIn(db),
    fence,
    runnerId: id,
    instance: id,
    credentialHash: sha256(String(fence)),
    state: 'failed',
    leaseUntil: sql`now(3)`,
  });
  return id;
}

test('whoever reads a log while it is packed has all of it', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  for (let round = 0; round < 60; round += 1) {
    const id = await attemptIn(db, round);
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

test('a line is found in a packed log without opening the pieces before it', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const id = await attemptIn(db, 0);
  // Bytes that do not compress, lines of many lengths, one longer than two pieces, and an end without a line's end.
  const said = Array.from({ length: 9000 }, (_, place) =>
    place === 4000 ? 'x'.repeat(600_000) : `${place + 1} ${randomBytes(40).toString('hex')}`,
  );
  const log = Buffer.from(`${said.join('\n')}\n\nend`);
  const half = Math.floor(log.length / 2);
  const steps = [
    { offset: 0, step: 'pages', at: 1 as Instant },
    { offset: log.indexOf('\n7000 ') + 1, step: 'tests', at: 2 as Instant },
  ];
  await keepLog(
    db,
    { id, logBytes: 0 },
    { offset: 0, bytes: log.subarray(0, half), segments: steps.slice(0, 1) },
  );
  await keepLog(
    db,
    { id, logBytes: half },
    { offset: half, bytes: log.subarray(half), segments: steps.slice(1) },
  );
  const wanted = { limit: 3, step: undefined, find: undefined, from: undefined, before: undefined };
  const asked = [
    { ...wanted },
    { ...wanted, from: 4000 },
    { ...wanted, from: 6999 },
    { ...wanted, before: 4003 },
    { ...wanted, before: 2 },
    { ...wanted, from: 9001 },
    { ...wanted, from: 10_000 },
    { ...wanted, before: 20_000 },
    { ...wanted, step: 'tests', from: 8000 },
    { ...wanted, step: 'tests', before: 8000 },
    { ...wanted, find: '4321 ' },
  ];
  const coming = await Promise.all(asked.map((one) => findLines(db, id, one)));
  await packLog(db, id);
  assert.deepEqual(await Promise.all(asked.map((one) => findLines(db, id, one))), coming);
  assert.deepEqual(await readLog(db, id, 0), log);
  assert.deepEqual(await readLog(db, id, half), log.subarray(half));
  // Those before it may be anything: they are not opened.
  const first = and(eq(logChunks.attemptId, id), eq(logChunks.offset, 0));
  await db
    .update(logChunks)
    .set({ bytes: Buffer.from('no gzip') })
    .where(first);
  assert.deepEqual(await findLines(db, id, { ...wanted, from: 6999 }), coming[2]);
  await assert.rejects(findLines(db, id, wanted), /incorrect header/);
  const numbers = coming.map(({ lines }) => lines.map(({ number }) => number));
  assert.deepEqual(numbers.slice(0, 9), [
    [1, 2, 3],
    [4000, 4001, 4002],
    [6999, 7000, 7001],
    [4000, 4001, 4002],
    [1],
    [9001, 9002],
    [],
    [9000, 9001, 9002],
    [8000, 8001, 8002],
  ]);
  assert.equal(coming[1]?.lines[1]?.text.length, 600_000);
  assert.deepEqual(
    coming[2]?.lines.map(({ step }) => step),
    ['pages', 'tests', 'tests'],
  );
  assert.deepEqual([coming[0]?.total, coming[0]?.more, coming[0]?.earlier], [9002, true, false]);
  assert.deepEqual([coming[9]?.earlier, coming[9]?.more, coming[9]?.found], [true, true, 2003]);
});

test('a log that was packed whole before is cut into pieces when a line of it is looked for', async (t) => {
  const { db, close } = await databaseForTests();
  t.after(close);
  const id = await attemptIn(db, 0);
  const log = Buffer.from(Array.from({ length: 60_000 }, (_, at) => `line ${at + 1}\n`).join(''));
  await db.insert(logChunks).values({
    attemptId: id,
    offset: 0,
    bytes: gzipSync(log),
    isZipped: true,
    segments: [{ offset: 0, step: 'pages', at: 1 as Instant }],
  });
  await db.update(attempts).set({ logBytes: log.length, logKept: true });
  const { lines } = await findLines(db, id, { from: 50_000, limit: 1 });
  assert.deepEqual(lines, [{ number: 50_000, step: 'pages', at: 1, text: 'line 50000' }]);
  const pieces = await db.select({ before: logChunks.linesBefore }).from(logChunks);
  assert.ok(pieces.length > 1 && pieces.every(({ before }) => before !== null), `${pieces.length}`);
  assert.deepEqual(await readLog(db, id, 0), log);
});
