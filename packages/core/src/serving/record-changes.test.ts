import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { changesBetween, withChanges } from './record-changes.ts';

const key = fc.constantFrom(
  'a.localhost',
  'b.localhost',
  'c.localhost',
  '__proto__',
  'constructor',
  '',
);
const entry = fc.record(
  { at: fc.nat(2), of: fc.constantFrom('x', null) },
  { noNullPrototype: true },
);
const record = fc.array(fc.tuple(key, entry)).map((pairs) => Object.fromEntries(pairs));

test('what changed makes the one of the other, says nothing of what stayed, and nothing where all did', () => {
  fc.assert(
    fc.property(record, record, (before, after) => {
      const changes = changesBetween(before, after);
      assert.deepEqual({ ...withChanges(before, changes) }, { ...after });
      for (const [name, now] of Object.entries(changes.set))
        assert.notDeepEqual(Object.hasOwn(before, name) ? before[name] : undefined, now);
      assert.ok(changes.gone.every((name) => !Object.hasOwn(after, name)));
      assert.deepEqual(changesBetween(after, structuredClone(after)), { set: {}, gone: [] });
    }),
  );
});
