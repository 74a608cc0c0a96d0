import assert from 'node:assert/strict';
import {
  mkdirSync,
  mkdtempSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { pino } from 'pino';
import { openFileStore } from '../artifacts/store-files.ts';
import { openCaches } from '../builds/caches.ts';
import { openOutputStore } from './output-store.ts';

const log = pino({ level: 'silent' });

function place(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-outputs-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const store = openFileStore(join(folder, 'store'));
  t.after(store.stop);
  let number = 0;
  const written = (text: string): string => {
    number += 1;
    const path = join(folder, `written-${number}`);
    mkdirSync(join(path, '0', 'deep'), { recursive: true });
    writeFileSync(join(path, '0', 'deep', 'a.txt'), text, { mode: 0o777 });
    symlinkSync('deep/a.txt', join(path, '0', 'link'));
    return path;
  };
  return { folder, store, written };
}

test('an output is sealed, named by what it holds, and found again', async (t) => {
  const { folder, store, written } = place(t);
  const outputs = await openOutputStore(join(folder, 'outputs'), store, 1 << 30, log, true);
  const one = await outputs.take(written('tide'));
  const same = await outputs.take(written('tide'));
  const other = await outputs.take(written('ebb'));
  assert.equal(one.digest, same.digest);
  assert.notEqual(one.digest, other.digest);
  assert.deepEqual([one.files, one.bytes], [1, 4]);
  assert.deepEqual(
    (await one.list()).map((file) => file.path),
    ['0/deep/a.txt'],
  );
  const file = join(one.folder(0), 'deep', 'a.txt');
  assert.equal(statSync(file).mode & 0o222, 0);
  assert.equal((await outputs.find(one.digest))?.digest, one.digest);
  assert.equal(await outputs.find('0'.repeat(64) as never), null);
});

test('folders that are seen below layers take what is written, behind a door that is root’s alone', async (t) => {
  const { folder, store, written } = place(t);
  const at = join(folder, 'outputs');
  const modeOf = (path: string): number => statSync(path).mode & 0o777;
  const layered = await openOutputStore(at, store, 1 << 30, log, true);
  const below = await layered.take(written('tide'));
  assert.deepEqual(
    [modeOf(join(at, below.digest)), modeOf(join(below.folder(0), 'deep'))],
    [0o700, 0o777],
  );
  // Where nothing lies over them, what was left so open is made again.
  const plain = await openOutputStore(at, store, 1 << 30, log, false);
  assert.equal(await plain.find(below.digest), null);
  const open = await plain.take(written('ebb'));
  assert.deepEqual(
    [modeOf(join(at, open.digest)), modeOf(join(open.folder(0), 'deep'))],
    [0o711, 0o755],
  );
  assert.notEqual(await layered.find(open.digest), null);
});

test('beyond their limits the outputs and caches longest unused go first', async (t) => {
  const { folder, store, written } = place(t);
  const first = await openOutputStore(join(folder, 'outputs'), store, 6, log, true);
  const [old, young] = [await first.take(written('tide')), await first.take(written('ebb!'))];
  utimesSync(join(folder, 'outputs', old.digest), 1, 1);
  // Those that were taken since the last sweep are in use; opened anew, none is.
  assert.equal(await first.sweep(), 0);
  const again = await openOutputStore(join(folder, 'outputs'), store, 6, log, true);
  assert.equal(await again.sweep(), 1);
  assert.equal(await again.find(old.digest), null);
  assert.equal((await again.find(young.digest))?.digest, young.digest);

  const caches = await openCaches(join(folder, 'caches'), 8192, log);
  const slot = { number: 0, name: 'slot-0', uid: null, directory: folder };
  const [npm, board] = [
    await caches.folder('timetable', '', '~/.npm', slot),
    await caches.folder('timetable', '', '~/.board', slot),
  ];
  assert.notEqual(npm, await caches.folder('signage', '', '~/.npm', slot));
  assert.notEqual(npm, await caches.folder('timetable', 'pr-3', '~/.npm', slot));
  for (const path of [npm, board]) writeFileSync(join(path, 'kept'), Buffer.alloc(6000));
  utimesSync(npm, 1, 1);
  assert.equal(await caches.sweep(), 1);
  assert.throws(() => statSync(npm), /ENOENT/);
  assert.ok(statSync(board).isDirectory());
});
