import assert from 'node:assert/strict';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { openFileStore } from '../artifacts/store-files.ts';
import { walkOutput } from '../artifacts/walk-output.ts';
import { canLayer, openLayered, unmountBelow } from './layered.ts';

function place(t: TestContext): string {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-layers-'));
  t.after(async () => {
    await unmountBelow(folder);
    rmSync(folder, { recursive: true, force: true });
  });
  for (const name of ['below', 'at']) mkdirSync(join(folder, name));
  writeFileSync(join(folder, 'below', 'page.html'), 'tide');
  return folder;
}

test('what is written to a layer lies beside, and what it shows stays as it was', async (t) => {
  const folder = place(t);
  assert.equal(await canLayer(join(folder, 'tried')), true);
  const [below, at] = [join(folder, 'below'), join(folder, 'at')];
  const layer = await openLayered(below, at, join(folder, 'layer'), null);
  writeFileSync(join(at, 'page.html'), 'ebb');
  rmSync(join(at, 'page.html'));
  writeFileSync(join(at, 'made.html'), 'made');
  assert.deepEqual(readdirSync(at), ['made.html']);
  assert.equal(readFileSync(join(below, 'page.html'), 'utf8'), 'tide');
  assert.ok(existsSync(join(layer.written, 'made.html')));
  await layer.close();
  assert.deepEqual(readdirSync(at), []);
});

test('a folder whose name the mount would misread is not layered', async (t) => {
  assert.equal(await canLayer(join(place(t), 'a,b')), false);
});

test('what a killed runner left mounted is taken away, and nothing else', async (t) => {
  const folder = place(t);
  const other = place(t);
  const open = (root: string) =>
    openLayered(join(root, 'below'), join(root, 'at'), join(root, 'layer'), null);
  await Promise.all([open(folder), open(other)]);
  await unmountBelow(folder);
  assert.deepEqual(readdirSync(join(folder, 'at')), []);
  assert.deepEqual(readdirSync(join(other, 'at')), ['page.html']);
});

test('the store takes what a layer was written, and a copy of what it only shows', async (t) => {
  const folder = place(t);
  const [below, at] = [join(folder, 'below'), join(folder, 'at')];
  const layer = await openLayered(below, at, join(folder, 'layer'), null);
  writeFileSync(join(at, 'made.html'), 'made');
  const store = openFileStore(join(folder, 'store'));
  t.after(store.stop);
  const walked = walkOutput(at);
  assert.ok(walked.ok);
  const stored = await store.store(at, walked.files, { shown: at, below, written: layer.written });
  const inodeOf = (path: string): number => Number(readInode(path));
  const blobs = new Map(stored.map((file) => [file.path, store.pathOf(file.digest)]));
  assert.equal(readFileSync(blobs.get('page.html') ?? '', 'utf8'), 'tide');
  assert.equal(inodeOf(blobs.get('made.html') ?? ''), inodeOf(join(layer.written, 'made.html')));
  assert.notEqual(inodeOf(blobs.get('page.html') ?? ''), inodeOf(join(below, 'page.html')));
  await layer.close();
});

function readInode(path: string): bigint {
  return statSync(path, { bigint: true }).ino;
}
