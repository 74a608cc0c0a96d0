import assert from 'node:assert/strict';
import test from 'node:test';
import type { Digest } from '@vaquero/core';
import fc from 'fast-check';
import { differenceFrom } from './last-proposed.ts';
import type { StoredFile } from './store-files.ts';

const file = (path: string, letter: string, mode: 0o644 | 0o755 = 0o644): StoredFile => ({
  path,
  digest: letter.repeat(64) as Digest,
  sizeBytes: 1,
  mode,
});
const artifact = 'f'.repeat(64) as Digest;
const told = (files: readonly StoredFile[]) => ({
  artifact,
  files: new Map(files.map((one) => [one.path, one])),
});

test('only what differs is named: new bytes, another mode, and what is gone', () => {
  const before = [
    file('a', 'a'),
    file('b', 'b'),
    file('c', 'c'),
    file('d', 'd'),
    file('e', 'e'),
    file('gone', 'a'),
  ];
  const now = [
    file('a', 'a'),
    file('b', 'c'),
    file('c', 'c', 0o755),
    file('d', 'd'),
    file('e', 'e'),
    file('f', 'a'),
  ];
  assert.deepEqual(differenceFrom(told(before), now), {
    files: [file('b', 'c'), file('c', 'c', 0o755), file('f', 'a')],
    like: { artifact, without: ['gone'] },
  });
  assert.deepEqual(differenceFrom(null, now), { files: now, like: null });
});

test('applied to what was told, a difference is the output again', () => {
  const files = fc
    .uniqueArray(fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f'))
    .chain((paths) =>
      fc.tuple(...paths.map((path) => fc.constantFrom('1', '2').map((one) => file(path, one)))),
    );
  fc.assert(
    fc.property(files, files, (before, now) => {
      const { files: named, like } = differenceFrom(told(before), now);
      const others = new Set([...(like?.without ?? []), ...named.map((one) => one.path)]);
      const kept = like === null ? [] : before.filter((one) => !others.has(one.path));
      const byPath = (a: StoredFile, b: StoredFile): number => (a.path < b.path ? -1 : 1);
      assert.deepEqual([...kept, ...named].sort(byPath), [...now].sort(byPath));
    }),
  );
});
