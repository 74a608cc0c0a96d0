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

/** Opens the database. Connections speak UTC and READ COMMITTED; none is made before the first query. */
export function openDatabase(url: string): OpenDatabase {
  const pool = openPool(url, "time_zone = '+00:00', tx_isolation = 'READ-COMMITTED'");
  // A first statement begins a transaction here without a word, which saves each of them one.
  const transacting = openPool(
    url,
    "time_zone = '+00:00', tx_isolation = 'READ-COMMITTED', autocommit = 0",
  );
  const db = drizzle(pool);
  return {
    db: Object.assign(db, { transactions: lenderOf(transacting) }),
    close: async () => {
      await Promise.all([pool.end(), transacting.end()]);
    },
  };
}

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
function lenderOf(pool: Pool): Transactions {
  const known = new WeakMap<PoolConnection['connection'], Tx>();
  return {
    lend: async () => {
      const lent = await pool.getConnection();
      let tx = known.get(lent.connection);
      if (tx === undefined) {
        tx = drizzle(lent) as unknown as Tx;
        known.set(lent.connection, tx);
      }
      return { tx, giveBack: () => lent.release(), close: () => lent.destroy() };
    },
  };
}
