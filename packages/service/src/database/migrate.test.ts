import assert from 'node:assert/strict';
import { cp, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test from 'node:test';
import mysql from 'mysql2/promise';
import { emptyDatabase, migrationsFolder } from './database-for-tests.ts';
import { applyMigrations, DatabaseUnfit } from './migrate.ts';

interface Journal {
  entries: { when: number; tag: string }[];
}

/** Every column and key of a database, as texts. */
async function schemaOf(url: string): Promise<readonly string[]> {
  const connection = await mysql.createConnection(url.replace('mariadb:', 'mysql:'));
  const [columns] = await connection.query<mysql.RowDataPacket[]>(
    `SELECT concat_ws(' ', table_name, column_name, column_type, is_nullable, column_default) AS text
      FROM information_schema.columns WHERE table_schema = database() ORDER BY table_name, ordinal_position`,
  );
  const [keys] = await connection.query<mysql.RowDataPacket[]>(
    `SELECT concat_ws(' ', table_name, index_name, seq_in_index, column_name, non_unique) AS text
      FROM information_schema.statistics WHERE table_schema = database() ORDER BY 1`,
  );
  await connection.end();
  return [...columns, ...keys].map((row) => String(row.text));
}

test('of several that start at once one migrates, and the others find it done', async () => {
  const url = await emptyDatabase();
  await Promise.all(Array.from({ length: 4 }, () => applyMigrations(url, migrationsFolder)));
  const alone = await emptyDatabase();
  await applyMigrations(alone, migrationsFolder);
  assert.deepEqual(await schemaOf(url), await schemaOf(alone));
});

test('a migration that was cut short after any of its statements is gone on with at the next start', async (t) => {
  const whole = await emptyDatabase();
  await applyMigrations(whole, migrationsFolder);
  const expected = await schemaOf(whole);
  const journal = JSON.parse(
    await readFile(join(migrationsFolder, 'meta/_journal.json'), 'utf8'),
  ) as Journal;
  const { tag } = journal.entries.find((one) => one.tag.endsWith('_ground')) ?? assert.fail();
  const path = `${tag}.sql`;
  const statements = (await readFile(join(migrationsFolder, path), 'utf8')).split(
    '--> statement-breakpoint',
  );
  const deadly = await mkdtemp(join(tmpdir(), 'migrations-'));
  t.after(() => rm(deadly, { recursive: true }));
  await cp(migrationsFolder, deadly, { recursive: true });
  // The connection dies with one of the statements: before it, or behind it and before the note that it was done.
  const dying = (statement: string, isDone: boolean): string =>
    `BEGIN NOT ATOMIC ${isDone ? `${statement.trim().replace(/;$/, '')};` : ''} KILL CONNECTION CONNECTION_ID(); END`;
  for (const [place, isDone] of [
    [0, false],
    [0, true],
    [4, true],
    [statements.length - 1, true],
  ] as const) {
    const cut = statements.map((one, at) => (at === place ? dying(one, isDone) : one));
    await writeFile(join(deadly, path), cut.join('--> statement-breakpoint'));
    const url = await emptyDatabase();
    await assert.rejects(applyMigrations(url, deadly), /closed|killed|lost|interrupted/i);
    const connection = await mysql.createConnection(url.replace('mariadb:', 'mysql:'));
    // Time passes, and the turn of the one that died has lapsed.
    await connection.query('UPDATE migration_turn SET until = now(3)');
    await connection.end();
    await applyMigrations(url, migrationsFolder);
    assert.deepEqual(await schemaOf(url), expected, `cut at ${place}, done: ${isDone}`);
  }
});

test('a database that takes Main and main for one, or that a newer version was at, is refused in words', async () => {
  await assert.rejects(
    applyMigrations(await emptyDatabase('utf8mb4_general_ci'), migrationsFolder),
    (error) => error instanceof DatabaseUnfit && /Main and main/.test(error.message),
  );
  const url = await emptyDatabase();
  await applyMigrations(url, migrationsFolder);
  const connection = await mysql.createConnection(url.replace('mariadb:', 'mysql:'));
  await connection.query(
    "INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('x', 99999999999999)",
  );
  await connection.end();
  await assert.rejects(
    applyMigrations(url, migrationsFolder),
    (error) => error instanceof DatabaseUnfit && /newer version/.test(error.message),
  );
});
