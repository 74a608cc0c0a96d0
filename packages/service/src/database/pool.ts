import type { Logger } from 'drizzle-orm/logger';
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import mysql, { type Pool, type PoolConnection } from 'mysql2/promise';

type Statements = MySql2Database;

/** The database outside of transactions: each statement stands alone. */
export interface Db extends Statements {
  /** Connections whose statements are not committed by themselves; for `inTransaction`. */
  readonly transactions: Transactions;
}

declare const isInside: unique symbol;
/** The database inside of a transaction, which `inTransaction` begins and ends. */
export interface Tx extends Statements {
  readonly [isInside]: true;
}

/** A connection that a transaction has to itself for its time. */
export interface Lent {
  readonly tx: Tx;
  /** Gives it back, to be lent again. */
  readonly giveBack: () => void;
  /** Closes it: nobody knows what it still holds. */
  readonly close: () => void;
}

/** Lends connections to transactions. */
export interface Transactions {
  readonly lend: () => Promise<Lent>;
}

/** The database and the way to let go of it. */
export interface OpenDatabase {
  readonly db: Db;
  readonly close: () => Promise<void>;
}

/** Sees each statement that is sent, as it is sent. */
export type StatementHook = (text: string, values: readonly unknown[]) => void;

/**
 * Opens the database. Connections speak UTC and READ COMMITTED; none is made before the first query. `hook` sees every
 * statement: what is asked of the database can be held against its plans.
 */
export function openDatabase(url: string, hook?: StatementHook): OpenDatabase {
  const logger = hook !== undefined && { logQuery: hook };
  const pool = openPool(url, settings);
  // A first statement begins a transaction here without a word, which saves each of them one.
  const transacting = openPool(url, `${settings}, autocommit = 0`);
  const db = drizzle(pool, { logger });
  return {
    db: Object.assign(db, { transactions: lenderOf(transacting, logger) }),
    close: async () => {
      await Promise.all([pool.end(), transacting.end()]);
    },
  };
}

/** The server's own mode may cut off what is too long, or take names in quotes for texts. */
const settings =
  "time_zone = '+00:00', tx_isolation = 'READ-COMMITTED', sql_mode = 'STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION'";

function openPool(url: string, settings: string): Pool {
  const pool = mysql.createPool({
    uri: url.replace(/^mariadb:/, 'mysql:'),
    connectionLimit: 16,
    timezone: 'Z',
    charset: 'utf8mb4',
    connectTimeout: 5_000,
    enableKeepAlive: true,
    // A stack for each query, in case it fails, costs every one of them; drizzle's errors name the query itself.
    trace: false,
    // None is prepared on the server; the driver makes room for 16,000 of them with each connection.
    maxPreparedStatements: 1,
  });
  pool.on('connection', (connection) => {
    // Queued before the first query of whoever asked for the connection (mysql2 keeps the order).
    connection.query(`SET ${settings}`);
  });
  return pool;
}

/** What drizzle makes for a connection is kept with it: the selects that were made once for it are, too. */
function lenderOf(pool: Pool, logger: false | Logger): Transactions {
  const known = new WeakMap<PoolConnection['connection'], Tx>();
  return {
    lend: async () => {
      const lent = await pool.getConnection();
      let tx = known.get(lent.connection);
      if (tx === undefined) {
        tx = drizzle(lent, { logger }) as unknown as Tx;
        known.set(lent.connection, tx);
      }
      return { tx, giveBack: () => lent.release(), close: () => lent.destroy() };
    },
  };
}
