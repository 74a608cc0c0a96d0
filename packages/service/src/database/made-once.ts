import type { Db, Tx } from './pool.ts';

/**
 * A select whose text is made once for each pool and then only carried out: making one anew takes the event loop
 * as long as all else about it, and a move or a build asks some twenty. Within a transaction, which has a connection
 * of its own, it is made for that one.
 */
export function madeOnce<Query>(make: (db: Db | Tx) => Query): (db: Db | Tx) => Query {
  const made = new WeakMap<Db | Tx, Query>();
  return (db) => {
    const known = made.get(db);
    if (known !== undefined) return known;
    const query = make(db);
    made.set(db, query);
    return query;
  };
}
