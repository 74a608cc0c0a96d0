import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { withChanges } from './record-changes.ts';

const names = ['a.localhost', 'b.localhost', 'c.localhost', '__proto__', 'constructor', ''];
const key = fc.constantFrom(...names);
const entry = fc.record(
  { at: fc.nat(2), of: fc.constantFrom('x', null) },
  { noNullPrototype: true },
);
const record = fc.array(fc.tuple(key, entry)).map((pairs) => Object.fromEntries(pairs));

test('changes set what they set, take away what is gone, and leave the rest as it was', () => {
  fc.assert(
    fc.property(record, record, fc.array(key), (before, set, gone) => {
      const after = withChanges(before, { set, gone });
      for (const name of names) {
        const own = (of: object, at: string) => Object.getOwnPropertyDescriptor(of, at)?.value;
        const wanted = Object.hasOwn(set, name)
          ? own(set, name)
          : gone.includes(name)
            ? undefined
            : own(before, name);
        assert.deepEqual(own(after, name), wanted, name);
      }
      assert.deepEqual({ ...withChanges(after, { set: {}, gone: [] }) }, { ...after });
    }),
  );
});
