import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import mysql from 'mysql2/promise';
import * as tables from './tables.ts';

export type Db = MySql2Database<typeof tables>;
export type Tx = Parameters<Parameters<Db['transaction']>[0]>[0];

/** The database and the way to let go of it. */
export interface OpenDatabase {
  readonly db: Db;
  readonly close: () => Promise<void>;
}

/** Opens a pool. Connections speak UTC and READ COMMITTED; none is made before the first query. */
export function openDatabase(url: string): OpenDatabase {
  const pool = mysql.createPool({
    uri: url.replace(/^mariadb:/, 'mysql:'),
    connectionLimit: 16,
    timezone: 'Z',
    charset: 'utf8mb4',
    connectTimeout: 5_000,
    enableKeepAlive: true,
    // A stack for each query, in case it fails, costs every one of them; drizzle's errors name the query itself.
    trace: false,
  });
  pool.on('connection', (connection) => {
    // Queued before the first query of whoever asked for the connection (mysql2 keeps the order).
    connection.query("SET time_zone = '+00:00', tx_isolation = 'READ-COMMITTED'");
  });
  return { db: drizzle(pool, { schema: tables, mode: 'default' }), close: () => pool.end() };
}
