import { sql } from 'drizzle-orm';
import { drizzle } from 'drizzle-orm/mysql2';
import { migrate } from 'drizzle-orm/mysql2/migrator';
import mysql from 'mysql2/promise';
import type { Db } from './pool.ts';
import { logHead } from './tables.ts';

/**
 * Applies the migrations that are not applied yet, under a lock, so that of several processes starting
 * at once one migrates and the others wait. Throws when the lock does not come within a minute.
 */
export async function applyMigrations(url: string, folder: string): Promise<void> {
  const connection = await mysql.createConnection({
    uri: url.replace(/^mariadb:/, 'mysql:'),
    timezone: 'Z',
    charset: 'utf8mb4',
  });
  try {
    const db = drizzle(connection);
    const [rows] = await connection.query("SELECT GET_LOCK('vaquero-migrations', 60) AS locked");
    if (!Array.isArray(rows) || !isLocked(rows[0]))
      throw new Error('another process holds the migration lock for over a minute');
    await migrate(db, { migrationsFolder: folder });
    await db
      .insert(logHead)
      .values({ id: 1, position: 0 })
      .onDuplicateKeyUpdate({ set: { id: 1 } });
  } finally {
    await connection.end();
  }
}

function isLocked(row: unknown): boolean {
  return typeof row === 'object' && row !== null && 'locked' in row && row.locked === 1;
}

/** Whether the database answers a trivial query. */
export async function answers(db: Db): Promise<boolean> {
  return db.execute(sql`SELECT 1`).then(
    () => true,
    () => false,
  );
}
