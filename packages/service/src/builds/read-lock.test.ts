import assert from 'node:assert/strict';
import test from 'node:test';
import { lockDifferences } from '@vaquero/core';
import { isLock, readLock } from './read-lock.ts';

const plain = (path: string, text: string) =>
  Object.fromEntries([...readLock(path, text)].map(([name, all]) => [name, [...all].sort()]));

test('the packages of each package manager’s lock file are told by name and version', () => {
  const npm = JSON.stringify({
    lockfileVersion: 3,
    packages: {
      '': { name: 'timetable', version: '1.0.0' },
      'sites/desk': { version: '1.0.0' },
      'node_modules/desk': { resolved: 'sites/desk', link: true },
      'node_modules/vite': { version: '5.4.1' },
      'node_modules/vite/node_modules/@scope/deep': { version: '2.0.0' },
      'node_modules/@scope/deep': { version: '1.0.0' },
    },
  });
  assert.deepEqual(plain('sites/desk/package-lock.json', npm), {
    vite: ['5.4.1'],
    '@scope/deep': ['1.0.0', '2.0.0'],
  });
  const pnpm = `lockfileVersion: '9.0'
packages:
  '@scope/deep@1.0.0':
    resolution: {integrity: sha512-x}
  vite@5.4.1(sass@1.0.0):
    resolution: {integrity: sha512-y}
`;
  assert.deepEqual(plain('pnpm-lock.yaml', pnpm), { '@scope/deep': ['1.0.0'], vite: ['5.4.1'] });
  const first = `# yarn lockfile v1

"@scope/deep@^1.0.0", "@scope/deep@^1.0.1":
  version "1.0.3"
  resolved "x"

vite@^5.0.0:
  version "5.4.1"
`;
  assert.deepEqual(plain('yarn.lock', first), { '@scope/deep': ['1.0.3'], vite: ['5.4.1'] });
  const later = `__metadata:
  version: 8
"vite@npm:^5.0.0":
  version: 5.4.1
  resolution: "vite@npm:5.4.1"
`;
  assert.deepEqual(plain('yarn.lock', later), { vite: ['5.4.1'] });
});

test('what cannot be read tells nothing, and other files are no lock files', () => {
  for (const name of ['package-lock.json', 'pnpm-lock.yaml', 'yarn.lock'])
    assert.deepEqual(plain(name, '{{{ : not it'), {});
  assert.deepEqual(plain('package-lock.json', '[]'), {});
  assert.deepEqual([isLock('a/yarn.lock'), isLock('package.json')], [true, false]);
  // An alias could make a small file grow without end.
  const bomb = 'packages: {a@1: &a [x], b@2: *a}\n';
  assert.deepEqual(plain('pnpm-lock.yaml', bomb), {});
});

test('two lock files differ by name: other versions, new packages, and gone ones', () => {
  const lock = (packages: Readonly<Record<string, readonly string[]>>) =>
    new Map(Object.entries(packages).map(([name, all]) => [name, new Set(all)]));
  assert.deepEqual(
    lockDifferences(
      lock({ vite: ['5.4.1'], gone: ['1.0.0'], same: ['2.0.0', '1.0.0'] }),
      lock({ vite: ['5.4.2'], fresh: ['0.1.0'], same: ['1.0.0', '2.0.0'] }),
    ),
    [
      { name: 'fresh', before: null, now: '0.1.0' },
      { name: 'gone', before: '1.0.0', now: null },
      { name: 'vite', before: '5.4.1', now: '5.4.2' },
    ],
  );
});
