import assert from 'node:assert/strict';
import {
  closeSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { openFolder } from './beneath.ts';
import { followBeneath, reachBelow } from './reach.ts';

function place(t: TestContext): string {
  const root = mkdtempSync(join(tmpdir(), 'vaquero-reach-'));
  t.after(() => rmSync(root, { recursive: true, force: true }));
  for (const folder of ['a/b', 'a/c', 'd']) mkdirSync(join(root, folder), { recursive: true });
  for (const file of ['top', 'a/one', 'a/b/two', 'd/three']) writeFileSync(join(root, file), file);
  return root;
}

test('places are reached from their folders, in any order, and never through a link', (t) => {
  const root = place(t);
  symlinkSync('a', join(root, 'link'));
  const reach = reachBelow(root);
  t.after(reach.close);
  for (const path of ['a/b/two', 'top', 'd/three', 'a/one', 'a/b/two', './a//one'])
    assert.equal(readFileSync(reach.must(path), 'utf8'), path.replace(/^\.\/|\/(?=\/)/g, ''));
  for (const path of ['link/one', 'absent/one', '../x', 'a/../top', 'a/..', 'top/x'])
    assert.equal(reach.to(path), null, path);
  assert.throws(() => reach.must('link/one'), /link\/one is not in a folder of this tree/);
});

test('a folder that is swapped for a link after it was reached is the same folder still', (t) => {
  const root = place(t);
  const elsewhere = mkdtempSync(join(tmpdir(), 'vaquero-elsewhere-'));
  t.after(() => rmSync(elsewhere, { recursive: true, force: true }));
  writeFileSync(join(elsewhere, 'one'), 'a secret of the host');
  const reach = reachBelow(root);
  t.after(reach.close);
  const at = reach.must('a/one');
  renameSync(join(root, 'a'), join(root, 'moved'));
  symlinkSync(elsewhere, join(root, 'a'));
  assert.equal(readFileSync(at, 'utf8'), 'a/one');
  reach.to('d/three');
  assert.equal(reach.to('a/one'), null);
});

test('links are followed below the folder only, as the kernel would', (t) => {
  const root = place(t);
  const links = {
    inner: 'a/b/two',
    'a/up': '../d',
    chain: 'a/up/three',
    out: '../etc',
    host: '/etc/passwd',
    'a/b/far': '../../../etc',
    nowhere: 'a/none',
    round: 'round',
    below: 'top/x',
    dots: './a/./b/..//one',
  };
  for (const [path, target] of Object.entries(links)) symlinkSync(target, join(root, path));
  const top = openFolder(root);
  t.after(() => closeSync(top));
  const ends = (path: string) => {
    const end = followBeneath(top, path);
    return 'path' in end ? [end.kind, end.path] : [end.kind];
  };
  const cases = {
    inner: ['file', 'a/b/two'],
    chain: ['file', 'd/three'],
    'a/up': ['folder', 'd'],
    dots: ['file', 'a/one'],
    '': ['folder', ''],
    out: ['leaves'],
    host: ['leaves'],
    'a/b/far': ['leaves'],
    nowhere: ['nowhere'],
    round: ['nowhere'],
    below: ['nowhere'],
    'a/../..': ['leaves'],
  };
  for (const [path, expected] of Object.entries(cases))
    assert.deepEqual(ends(path), expected, path);
});
