import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { RoutingTable } from '@vaquero/contracts';
import { openTableCopy } from './table-copy.ts';

const table = (revision: number): RoutingTable => ({
  revision,
  hosts: {},
  artifactsBase: 'artifacts.localhost:1',
  admission: null,
  ended: {},
  moved: { hosts: {}, projects: {} },
});

function place(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-copy-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const copy = openTableCopy(folder);
  t.after(copy.stop);
  return { folder, copy, one: join(folder, 'table.1'), two: join(folder, 'table.2') };
}

test('the newest copy is read as it was written, by the next start too, and two files hold them in turn', async (t) => {
  const { folder, copy } = place(t);
  assert.equal(await copy.read(), undefined, 'a new edge has none');
  for (const revision of [3, 4, 5]) await copy.write(table(revision));
  assert.deepEqual(await copy.read(), table(5));
  const next = openTableCopy(folder);
  t.after(next.stop);
  assert.deepEqual(await next.read(), table(5));
  assert.deepEqual(readdirSync(folder), ['table.1', 'table.2']);
});

test('a shorter table over a longer one is whole', async (t) => {
  const { copy } = place(t);
  const long = { ...table(1), artifactsBase: 'a'.repeat(9000) };
  for (const each of [long, { ...long, revision: 2 }, table(3), table(4)]) {
    await copy.write(each);
    assert.deepEqual(await copy.read(), each);
  }
});

test('a copy that was cut short, mixed with the one before, or is of another version leaves the other one', async (t) => {
  const { folder, copy, one, two } = place(t);
  await copy.write(table(3));
  await copy.write(table(4));
  const whole = readFileSync(two, 'utf8');
  const older = readFileSync(one, 'utf8');
  const otherVersion = '{"revision":"four"}';
  const hash = createHash('sha256').update(otherVersion).digest('hex');
  const spoilt = [
    '',
    whole.slice(0, 20),
    whole.slice(0, -2),
    whole.slice(0, 90) + older.slice(90, -8) + 'x'.repeat(8),
    '\0\0\0',
    'null',
    `${otherVersion.length} ${hash}\n${otherVersion}`,
  ];
  for (const text of spoilt) {
    writeFileSync(two, text);
    const next = openTableCopy(folder);
    t.after(next.stop);
    assert.equal((await next.read())?.revision, 3, JSON.stringify(text));
    await next.write(table(5));
    assert.equal((await next.read())?.revision, 5, 'the spoilt one is what is written over');
    assert.equal(readFileSync(one, 'utf8'), older);
  }
});

test('a disk that does not take the copy is told, and the next one is tried all the same', async (t) => {
  const { copy, one } = place(t);
  mkdirSync(one);
  await assert.rejects(copy.write(table(3)), /the copy of the table was not written: EISDIR/);
  rmSync(one, { recursive: true });
  await copy.write(table(4));
  assert.equal((await copy.read())?.revision, 4);
});

test('a copy of before, which says more of artifacts, is read', async (t) => {
  const { copy, one } = place(t);
  for (const more of [{ artifacts: [{ build: 7 }] }, { artifactsIn: { name: 'artifacts.1' } }]) {
    const text = JSON.stringify({ ...table(7), ...more });
    const hash = createHash('sha256').update(text).digest('hex');
    writeFileSync(one, `${text.length} ${hash}\n${text}`);
    assert.deepEqual(await copy.read(), table(7));
  }
  await copy.write(table(8));
  assert.equal((await copy.read())?.revision, 8);
});
