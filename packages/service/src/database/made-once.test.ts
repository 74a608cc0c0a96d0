import assert from 'node:assert/strict';
import test from 'node:test';
import { madeOnce } from './made-once.ts';
import type { Db } from './pool.ts';

test('a select is made once for each pool or transaction, and each keeps its own', () => {
  const made: Db[] = [];
  const select = madeOnce((db) => {
    made.push(db as Db);
    return { of: db };
  });
  const [one, other] = [{} as Db, {} as Db];
  assert.equal(select(one), select(one));
  assert.equal(select(other).of, other);
  assert.notEqual(select(one), select(other));
  assert.deepEqual(made, [one, other]);
});
