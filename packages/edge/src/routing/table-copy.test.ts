import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { RoutingTable } from '@vaquero/contracts';
import { openTableCopy } from './table-copy.ts';

const table = (revision: number): RoutingTable => ({
  revision,
  hosts: {},
  artifacts: [],
  artifactsBase: 'artifacts.localhost:1',
});

function place(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-copy-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const path = join(folder, 'table.json');
  const copy = openTableCopy(path);
  t.after(copy.stop);
  return { folder, path, copy };
}

test('a copy is read as it was written, and nothing else is left beside it', async (t) => {
  const { folder, copy } = place(t);
  assert.equal(await copy.read(), undefined, 'a new edge has none');
  await copy.write(table(3));
  await copy.write(table(4));
  assert.deepEqual(await copy.read(), table(4));
  assert.deepEqual(readdirSync(folder), ['table.json']);
});

test('a copy that was cut short, or is of another version, is none', async (t) => {
  const { path, copy } = place(t);
  const whole = JSON.stringify(table(3));
  for (const text of ['', whole.slice(0, 20), '\0\0\0', 'null', '{"revision":"three"}']) {
    writeFileSync(path, text);
    assert.equal(await copy.read(), undefined, JSON.stringify(text));
  }
});

test('a disk that does not take the copy is told, and the next one is tried all the same', async (t) => {
  const { path, copy } = place(t);
  mkdirSync(`${path}.new`);
  await assert.rejects(copy.write(table(3)), /the copy of the table was not written: EISDIR/);
  assert.equal(await copy.read(), undefined);
  rmSync(`${path}.new`, { recursive: true });
  await copy.write(table(4));
  assert.equal((await copy.read())?.revision, 4);
});
