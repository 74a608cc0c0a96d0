import assert from 'node:assert/strict';
import {
  chmodSync,
  existsSync,
  linkSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmdirSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { changeTree, listTree } from './change-tree.ts';
import {
  coarseMs,
  newestOf,
  settleTree,
  stampChanges,
  stampTree,
  type TreeStamps,
} from './tree-stamps.ts';

const committed = {
  'index.html': 'front',
  'src/page.html': 'page',
  'src/deep/er/note.txt': 'note',
  'run.sh': '#!/bin/sh\n',
};

/** A committed tree with its stamps, and a build that begins a tick later. */
async function place(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-stamps-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const [root, left] = [join(folder, 'tree'), join(folder, 'left')];
  for (const path of [root, left]) mkdirSync(path);
  const put = (path: string, text: string): void => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), text);
  };
  for (const [path, text] of Object.entries(committed)) put(path, text);
  symlinkSync('index.html', join(root, 'link'));
  const aside = (from: string): void => renameSync(from, join(left, `${readdirSync(left).length}`));
  const settle = (stamps: TreeStamps, since: number): Promise<TreeStamps | null> =>
    settleTree(root, stamps, { since, uid: null, aside });
  const stamps = await stampTree(root, listTree(root));
  return { root, left, put, settle, stamps, begin: () => nextTick(stamps) };
}

/** Waits until the file system's clock tells what comes from what was; returns the instant. */
function nextTick(stamps: TreeStamps): number {
  const after = newestOf(stamps) + coarseMs;
  // The instant itself is what is waited for: there is nothing else that tells of it.
  while (Date.now() <= after);
  return Date.now();
}

const filesIn = (root: string): readonly string[] => listTree(root).toSorted();
const asCommitted = [...Object.keys(committed), 'link'].toSorted();

test('what a build made is taken away, and what was committed is the very same files', async (t) => {
  const { root, left, put, settle, stamps, begin } = await place(t);
  const inode = (path: string): number => lstatSync(join(root, path)).ino;
  const before = asCommitted.map(inode);
  const since = begin();
  put('out/index.html', 'made');
  put('src/made.txt', 'made');
  put('src/deep/er/cache/x', 'made');
  mkdirSync(join(root, 'src/empty'));
  symlinkSync('/etc', join(root, 'src/deep/away'));
  const settled = await settle(stamps, since);
  assert.deepEqual(filesIn(root), asCommitted);
  assert.equal(existsSync(join(root, 'src/empty')), false);
  assert.deepEqual(asCommitted.map(inode), before);
  // What was left is not removed on the way, only moved: as many folders as were made anew.
  assert.equal(readdirSync(left).length, 4);
  // The next build begins with a tree that can be told apart again.
  assert.ok(settled !== null);
  const again = nextTick(settled);
  put('out/index.html', 'made');
  const second = await settle(settled, again);
  assert.ok(second !== null);
  assert.deepEqual(filesIn(root), asCommitted);
  assert.equal(readdirSync(left).length, 5);
  // A build that writes nothing costs nothing.
  assert.ok((await settle(second, nextTick(second))) !== null);
});

test('a folder keeps nothing of what a build did to it', async (t) => {
  const { root, settle, stamps, begin } = await place(t);
  const since = begin();
  chmodSync(join(root, 'src'), 0o700);
  const { mode, ino } = lstatSync(join(root, 'src'));
  assert.ok((await settle(stamps, since)) !== null);
  // It is another folder: whatever else hung on the old one, as attributes or access lists do, is gone with it.
  assert.notEqual(lstatSync(join(root, 'src')).mode, mode);
  assert.notEqual(lstatSync(join(root, 'src')).ino, ino);
  assert.equal(readFileSync(join(root, 'src/page.html'), 'utf8'), 'page');
});

const spoilings: Readonly<Record<string, (root: string) => void>> = {
  'other bytes of the same size, and the old times': (root) => {
    const path = join(root, 'src/page.html');
    const { atime, mtime } = lstatSync(path);
    writeFileSync(path, 'egap');
    utimesSync(path, atime, mtime);
  },
  'another mode': (root) => chmodSync(join(root, 'run.sh'), 0o755),
  'another name for it': (root) => linkSync(join(root, 'index.html'), join(root, 'second')),
  'a name that is gone': (root) => rmSync(join(root, 'link')),
  'another file in its place': (root) => {
    writeFileSync(join(root, 'new'), 'front');
    renameSync(join(root, 'new'), join(root, 'index.html'));
  },
  'a folder moved, with a link in its place': (root) => {
    renameSync(join(root, 'src'), join(root, 'real'));
    symlinkSync('real', join(root, 'src'));
  },
  'a folder made anew': (root) => {
    renameSync(join(root, 'src/deep'), join(root, 'old'));
    mkdirSync(join(root, 'src/deep'));
    renameSync(join(root, 'old/er'), join(root, 'src/deep/er'));
    rmdirSync(join(root, 'old'));
  },
};
for (const [what, spoil] of Object.entries(spoilings))
  test(`a build that touched what was committed is found out: ${what}`, async (t) => {
    const { root, settle, stamps, begin } = await place(t);
    const since = begin();
    spoil(root);
    assert.equal(await settle(stamps, since), null);
  });

test('what was written within the tick in which the build began is told by its bytes', async (t) => {
  const { root, settle, stamps, begin } = await place(t);
  begin();
  const written = [
    { path: 'index.html', kind: 'file' as const, bytes: Buffer.from('next').toString('base64') },
    { path: 'new/link', kind: 'link' as const, bytes: Buffer.from('../run.sh').toString('base64') },
  ];
  const changes = { written, removed: ['src/deep/er/note.txt'] };
  changeTree(root, asCommitted, changes, null);
  const changed = stampChanges(root, stamps, changes);
  assert.deepEqual([...changed.files.keys()].toSorted(), [
    'index.html',
    'link',
    'new/link',
    'run.sh',
    'src/page.html',
  ]);
  assert.ok(!changed.folders.has('src/deep') && changed.folders.has('new'));
  // The build begins at once: its stamps cannot tell what it does from what was done for it.
  const since = Date.now();
  const settled = await settle({ ...changed, files: new Map(changed.files) }, since);
  assert.ok(settled !== null);
  const path = join(root, 'index.html');
  const { inode } = settled.files.get('index.html') ?? {};
  writeFileSync(path, 'NEXT');
  const now = lstatSync(path);
  assert.equal(now.ino, inode);
  // As if it had happened in the same tick: the stamp is that of the changed file.
  const forged = new Map(settled.files).set('index.html', {
    inode: now.ino,
    changedAt: now.ctimeMs,
    mode: now.mode,
  });
  assert.equal(await settle({ ...settled, files: forged, fresh: changed.fresh }, since), null);
});
