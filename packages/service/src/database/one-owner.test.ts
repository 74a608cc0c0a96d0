import assert from 'node:assert/strict';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';

const source = 'packages/service/src';

test('each table is written by the files of one folder alone', () => {
  const owners = new Map<string, Set<string>>();
  for (const path of readdirSync(source, { recursive: true, encoding: 'utf8' })) {
    if (!path.endsWith('-rows.ts')) continue;
    const folder = path.split('/')[0] ?? '';
    for (const [, table = ''] of readFileSync(join(source, path), 'utf8').matchAll(
      /\.(?:insert|update|delete)\((\w+)\)/g,
    ))
      owners.set(table, (owners.get(table) ?? new Set()).add(folder));
  }
  assert.ok(owners.size > 25, `only ${owners.size} tables are written`);
  const shared = [...owners].filter(([, folders]) => folders.size > 1);
  assert.deepEqual(
    shared.map(([table, folders]) => `${table}: ${[...folders].join(', ')}`),
    [],
  );
});
