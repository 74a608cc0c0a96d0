import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import test from 'node:test';
import fc from 'fast-check';
import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';
import { canonical, encodeEntry, type LogEntry, leafHash } from './log-entry.ts';

const sha256 = (text: string): Digest => createHash('sha256').update(text).digest('hex') as Digest;
const entry: LogEntry = {
  position: 7,
  at: 1000 as Instant,
  kind: 'environment.promoted',
  project: 'timetable',
  actor: { kind: 'person', id: 'p1' },
  through: 'cli',
  origin: null,
  facts: { environment: 'production', deploy: 3, undoes: null },
};

test('an entry has exactly one spelling, whatever the order its fields were written in', () => {
  assert.equal(
    encodeEntry(entry),
    '{"actor":{"id":"p1","kind":"person"},"at":1000,"facts":{"deploy":3,"environment":"production","undoes":null},"kind":"environment.promoted","origin":null,"position":7,"project":"timetable","through":"cli"}',
  );
  assert.equal(
    encodeEntry({ ...entry, facts: { undoes: null, deploy: 3, environment: 'production' } }),
    encodeEntry(entry),
  );
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
