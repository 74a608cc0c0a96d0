import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import test from 'node:test';
import fc from 'fast-check';
import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';
import { canonical, encodeEntry, type LogEntry, leafHash, readEntry } from './log-entry.ts';

const sha256 = (text: string): Digest => createHash('sha256').update(text).digest('hex') as Digest;
const entry: LogEntry = {
  form: 2,
  position: 7,
  at: 1000 as Instant,
  kind: 'environment.promoted',
  project: { id: 'j1', name: 'timetable' },
  who: { kind: 'person', id: 'p1', by: { kind: 'token', id: 't1' } },
  through: 'cli',
  origin: null,
  request: 'r1',
  facts: { environment: 'production', deploy: 3, undoes: null },
  before: { deploy: 2 },
  after: { deploy: 3 },
  why: null,
};

test('an entry has exactly one spelling, whatever the order its fields were written in', () => {
  assert.equal(
    encodeEntry(entry),
    '{"after":{"deploy":3},"at":1000,"before":{"deploy":2},"facts":{"deploy":3,"environment":"production","undoes":null},"form":2,"kind":"environment.promoted","origin":null,"position":7,"project":{"id":"j1","name":"timetable"},"request":"r1","through":"cli","who":{"by":{"id":"t1","kind":"token"},"id":"p1","kind":"person"},"why":null}',
  );
  assert.equal(
    encodeEntry({ ...entry, facts: { undoes: null, deploy: 3, environment: 'production' } }),
    encodeEntry(entry),
  );
});

test('an entry reads back as what was written, and one of the first form as far as it said something', () => {
  assert.deepEqual(readEntry(encodeEntry(entry)), entry);
  const first =
    '{"actor":{"id":"p1","kind":"person"},"at":1000,"facts":{"deploy":3},"kind":"environment.promoted","origin":"ab","position":7,"project":"timetable","through":"cli"}';
  assert.deepEqual(readEntry(first), {
    ...entry,
    form: 1,
    project: { id: '', name: 'timetable' },
    who: { kind: 'person', id: 'p1', by: null },
    origin: 'ab',
    request: null,
    facts: { deploy: 3 },
    before: null,
    after: null,
  });
  assert.throws(() => readEntry('{"form":3}'), SyntaxError);
});

test('canonical JSON is JSON, and keys in any order give the same text', () => {
  fc.assert(
    fc.property(
      fc.dictionary(
        fc.string(),
        fc.oneof(
          fc.integer(),
          fc.string(),
          fc.boolean(),
          fc.constant(null),
          fc.array(fc.integer()),
        ),
      ),
      (record) => {
        const text = canonical(record);
        assert.deepEqual(JSON.parse(text), JSON.parse(JSON.stringify(record)));
        assert.equal(canonical(Object.fromEntries(Object.entries(record).reverse())), text);
      },
    ),
  );
  assert.throws(() => canonical({ a: 0.1 }), RangeError);
});

test('a leaf hash is that of RFC 9162: a zero byte before the entry', () => {
  const bytes = encodeEntry(entry);
  assert.equal(
    leafHash(bytes, sha256),
    createHash('sha256')
      .update(Buffer.concat([Buffer.from([0]), Buffer.from(bytes)]))
      .digest('hex'),
  );
});
