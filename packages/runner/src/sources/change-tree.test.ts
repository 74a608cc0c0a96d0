import assert from 'node:assert/strict';
import {
  linkSync,
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
import { changeTree, listTree } from './change-tree.ts';

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

test('a tree becomes that of any other commit, as if it had been written anew', (t) => {
  const folder = place(t);
  let number = 0;
  fc.assert(
    fc.property(trees, trees, (from, to) => {
      number += 1;
      const root = join(folder, String(number));
      write(root, from);
      const paths = changeTree(root, listTree(root), changesOf(from, to), null);
      assert.deepEqual(read(root), to);
      assert.deepEqual([...paths].sort(), Object.keys(to).sort());
    }),
    { numRuns: 150 },
  );
});

test('what changes is written to a file of its own: a second name for the old one keeps the old bytes', (t) => {
  const folder = place(t);
  const root = join(folder, 'tree');
  const from = { 'same.txt': 'x', 'deep/changed.txt': 'old' };
  write(root, from);
  linkSync(join(root, 'deep/changed.txt'), join(folder, 'kept'));
  const inode = (path: string): number => statSync(join(root, path)).ino;
  const same = inode('same.txt');
  const changes = changesOf(from, { ...from, 'deep/changed.txt': 'new' });
  changeTree(root, listTree(root), changes, null);
  assert.equal(inode('same.txt'), same);
  assert.equal(readFileSync(join(root, 'deep/changed.txt'), 'utf8'), 'new');
  assert.equal(readFileSync(join(folder, 'kept'), 'utf8'), 'old');
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
