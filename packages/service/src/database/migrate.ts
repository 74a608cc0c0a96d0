import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { sql } from 'drizzle-orm';
import mysql, { type Connection, type RowDataPacket } from 'mysql2/promise';
import { z } from 'zod';
import type { Db } from './pool.ts';

/** A database that the service does not start on. */
export class DatabaseUnfit extends Error {
  override readonly name = 'DatabaseUnfit';
}

const leaseS = 30;
const patienceMs = 60_000;
const askAgainMs = 250;

const journal = z.object({
  entries: z.array(z.object({ when: z.number(), tag: z.string() })),
});

/** Errors of a statement that was carried out already: a table, column, key, reference or row that is there, or gone. */
const doneAlready = new Set([1005, 1050, 1054, 1060, 1061, 1062, 1091]);

/**
 * Brings the database to this version's schema. Of several processes that start at once one does it, by a lease in a row
 * that is renewed between the statements; one that was cut short is gone on with where it stopped.
 * Throws DatabaseUnfit for one whose texts would not be told apart, or that a newer version has been at.
 */
export async function applyMigrations(url: string, folder: string): Promise<void> {
  const connection = await mysql.createConnection({
    uri: url.replace(/^mariadb:/, 'mysql:'),
    timezone: 'Z',
    charset: 'utf8mb4',
  });
  const holder = randomUUID();
  try {
    await requireExactTexts(connection);
    await requireSortedIds(connection);
    const { entries } = journal.parse(
      JSON.parse(await readFile(join(folder, 'meta/_journal.json'), 'utf8')),
    );
    await makeOwnTables(connection);
    await takeTurn(connection, holder);
    const newest = await newestApplied(connection);
    if (newest > (entries.at(-1)?.when ?? 0))
      throw new DatabaseUnfit(
        'This database was used by a newer version of Vaquero. Start that one, or restore what was saved before.',
      );
    for (const { tag, when } of entries.filter((entry) => entry.when > newest))
      await applyOne(connection, { holder, tag, when }, join(folder, `${tag}.sql`));
    await connection.query(
      'INSERT INTO log_head (id, position) VALUES (1, 0) ON DUPLICATE KEY UPDATE id = 1',
    );
    await connection.query('UPDATE migration_turn SET until = now(3) WHERE holder = ?', [holder]);
  } finally {
    await connection.end();
  }
}

/** `Main` and `main` are two branches, and a name with an accent is another name. */
async function requireExactTexts(connection: Connection): Promise<void> {
  const [row] = await rowsOf(connection, 'SELECT @@collation_database AS collation');
  const collation = String(row?.collation);
  if (collation.startsWith('utf8mb4') && collation.endsWith('_bin')) return;
  throw new DatabaseUnfit(
    `The database compares texts by ${collation}, which would take Main and main for one branch. Make it with: CREATE DATABASE … CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin`,
  );
}

/** Ids are UUIDs of version 7, older ones first: MariaDB sorts them so from 10.11.5 on, and had no such kind before 10.7. */
async function requireSortedIds(connection: Connection): Promise<void> {
  const [older, newer] = [
    '019aabcd-0000-7000-bfff-ffffffffffff',
    '019aabce-0000-7000-8000-000000000000',
  ];
  const [row] = await rowsOf(
    connection,
    `SELECT cast('${older}' AS uuid) < cast('${newer}' AS uuid) AS sorted, version() AS version`,
  )
    // One without the kind cannot read the question. Where it is the connection that failed this fails, too.
    .catch(() => rowsOf(connection, 'SELECT 0 AS sorted, version() AS version'));
  if (Number(row?.sorted) === 1) return;
  throw new DatabaseUnfit(
    `The database is ${row?.version}. Vaquero keeps its ids as UUIDs in order of time, which MariaDB does from 10.11.5 on.`,
  );
}

/** What migrations themselves need; `__drizzle_migrations` is where earlier versions noted what they had applied. */
async function makeOwnTables(connection: Connection): Promise<void> {
  await connection.query(
    'CREATE TABLE IF NOT EXISTS `__drizzle_migrations` (id serial PRIMARY KEY, hash text NOT NULL, created_at bigint)',
  );
  await connection.query(
    `CREATE TABLE IF NOT EXISTS migration_turn (id int PRIMARY KEY, holder varchar(36) NOT NULL,
      until datetime(3) NOT NULL, tag varchar(200) NOT NULL, done int NOT NULL)`,
  );
  await connection.query(
    "INSERT IGNORE INTO migration_turn VALUES (1, '', date_sub(now(3), interval 1 second), '', 0)",
  );
}

/** Waits until nobody else is at it. Throws when that takes longer than a minute. */
async function takeTurn(connection: Connection, holder: string): Promise<void> {
  for (const until = performance.now() + patienceMs; ; await pause(askAgainMs)) {
    await connection.query(
      `UPDATE migration_turn SET holder = ?, until = date_add(now(3), interval ${leaseS} second) WHERE until <= now(3)`,
      [holder],
    );
    const [row] = await rowsOf(connection, 'SELECT holder FROM migration_turn');
    if (row?.holder === holder) return;
    if (performance.now() > until)
      throw new Error('another process has been migrating the database for over a minute');
  }
}

async function newestApplied(connection: Connection): Promise<number> {
  const [row] = await rowsOf(
    connection,
    'SELECT max(created_at) AS newest FROM __drizzle_migrations',
  );
  return Number(row?.newest ?? 0);
}

interface Applying {
  readonly holder: string;
  readonly tag: string;
  readonly when: number;
}

async function applyOne(
  connection: Connection,
  { holder, tag, when }: Applying,
  path: string,
): Promise<void> {
  const statements = (await readFile(path, 'utf8')).split('--> statement-breakpoint');
  const [turn] = await rowsOf(connection, 'SELECT tag, done FROM migration_turn');
  const wasBegun = turn?.tag === tag;
  const done = wasBegun ? Number(turn?.done) : 0;
  // Also the first statement may be the one that a process dies behind.
  if (!wasBegun) await noteDone(connection, holder, tag, 0);
  for (const [place, statement] of statements.entries()) {
    if (place < done) continue;
    // Between a statement and the note of it the process may have died: the one that was next may be done.
    await connection.query(statement).catch((error: unknown) => {
      const number = error instanceof Error && 'errno' in error ? Number(error.errno) : 0;
      if (!(wasBegun && place === done && doneAlready.has(number))) throw error;
    });
    await noteDone(connection, holder, tag, place + 1);
  }
  await connection.query('INSERT INTO __drizzle_migrations (hash, created_at) VALUES (?, ?)', [
    tag,
    when,
  ]);
}

/** Notes how far a migration has come and renews the turn. Throws when another process took it over. */
async function noteDone(
  connection: Connection,
  holder: string,
  tag: string,
  done: number,
): Promise<void> {
  const [result] = await connection.query<mysql.ResultSetHeader>(
    `UPDATE migration_turn SET tag = ?, done = ?, until = date_add(now(3), interval ${leaseS} second) WHERE holder = ?`,
    [tag, done, holder],
  );
  if (result.affectedRows !== 1)
    throw new Error('another process took the migration of the database over');
}

async function rowsOf(connection: Connection, text: string): Promise<readonly RowDataPacket[]> {
  const [rows] = await connection.query<RowDataPacket[]>(text);
  return rows;
}

/** Whether the database answers a trivial query. */
export async function answers(db: Db): Promise<boolean> {
  return db.execute(sql`SELECT 1`).then(
    () => true,
    () => false,
  );
}
