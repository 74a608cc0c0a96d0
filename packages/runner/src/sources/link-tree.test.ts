import assert from 'node:assert/strict';
import {
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readlinkSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { roleRoutes } from '@vaquero/contracts';
import fc from 'fast-check';
import { changeTree, linkTree, listTree } from './link-tree.ts';

type Tree = Readonly<Record<string, string>>;

function place(t: TestContext): string {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-trees-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  return folder;
}

/** Writes a tree; a content that begins with `->` is a link. */
function write(root: string, tree: Tree): void {
  mkdirSync(root);
  for (const [path, text] of Object.entries(tree)) {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    if (text.startsWith('->')) symlinkSync(text.slice(2), join(root, path));
    else writeFileSync(join(root, path), text);
  }
}

function read(root: string): Tree {
  return Object.fromEntries(
    listTree(root).map((path) => {
      const at = join(root, path);
      return lstatSync(at).isSymbolicLink()
        ? [path, `->${readlinkSync(at)}`]
        : [path, readFileSync(at, 'utf8')];
    }),
  );
}

/** What Git would say must be done to get one tree from another. */
function changesOf(from: Tree, to: Tree): roleRoutes.SourceChanges {
  return {
    written: Object.entries(to)
      .filter(([path, text]) => from[path] !== text)
      .map(([path, text]) => {
        const isLink = text.startsWith('->');
        const bytes = Buffer.from(isLink ? text.slice(2) : text).toString('base64');
        return { path, kind: isLink ? ('link' as const) : ('file' as const), bytes };
      }),
    removed: Object.keys(from).filter((path) => to[path] === undefined),
  };
}

/** Trees over few names, so that files take the places of folders and folders those of files. */
const trees = fc
  .dictionary(
    fc
      .array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 3 })
      .map((parts) => parts.join('/')),
    fc.oneof(fc.constantFrom('1', '2', '3'), fc.constantFrom('->a', '->../x')),
    { maxKeys: 8 },
  )
  .map((all): Tree => {
    // A path that lies below another one's file cannot be.
    const paths = Object.keys(all).sort();
    const kept = paths.filter((path) => !paths.some((other) => path.startsWith(`${other}/`)));
    return Object.fromEntries(kept.map((path) => [path, all[path] ?? '']));
  });

test('a tree is made from another: the same as if it had been written anew, and the other stays', (t) => {
  const folder = place(t);
  let number = 0;
  fc.assert(
    fc.property(trees, trees, (from, to) => {
      number += 1;
      const [kept, next] = [join(folder, `${number}-kept`), join(folder, `${number}-next`)];
      write(kept, from);
      linkTree({ from: kept, to: next, paths: listTree(kept), uid: null });
      assert.deepEqual(read(next), read(kept));
      const paths = changeTree(next, listTree(kept), changesOf(from, to), null);
      assert.deepEqual(read(next), to);
      assert.deepEqual([...paths].sort(), Object.keys(to).sort());
      assert.deepEqual(read(kept), from);
    }),
    { numRuns: 150 },
  );
});

test('files that did not change share their inodes, those that did have their own', (t) => {
  const folder = place(t);
  const [kept, next] = [join(folder, 'kept'), join(folder, 'next')];
  const from = { 'same.txt': 'x', 'deep/changed.txt': 'old' };
  write(kept, from);
  linkTree({ from: kept, to: next, paths: listTree(kept), uid: null });
  const changes = changesOf(from, { ...from, 'deep/changed.txt': 'new' });
  changeTree(next, listTree(kept), changes, null);
  const inode = (root: string, path: string): number => statSync(join(root, path)).ino;
  assert.equal(inode(next, 'same.txt'), inode(kept, 'same.txt'));
  assert.notEqual(inode(next, 'deep/changed.txt'), inode(kept, 'deep/changed.txt'));
  assert.equal(readFileSync(join(kept, 'deep/changed.txt'), 'utf8'), 'old');
});

test('modes are those of the commit, and nothing is written through a link', (t) => {
  const folder = place(t);
  const root = join(folder, 'tree');
  write(root, { link: '->../outside' });
  mkdirSync(join(folder, 'outside'));
  const bytes = Buffer.from('x').toString('base64');
  const paths = changeTree(
    root,
    ['link'],
    { written: [{ path: 'run.sh', kind: 'executable', bytes }], removed: [] },
    null,
  );
  assert.equal(statSync(join(root, 'run.sh')).mode & 0o777, 0o755);
  assert.throws(
    () =>
      changeTree(
        root,
        paths,
        { written: [{ path: 'link/page.html', kind: 'file', bytes }], removed: [] },
        null,
      ),
    /link is no folder in this tree/,
  );
  assert.deepEqual(listTree(join(folder, 'outside')), []);
});
