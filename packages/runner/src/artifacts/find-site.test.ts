import assert from 'node:assert/strict';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { openLayered, unmountBelow } from '../sources/layered.ts';
import { findSite } from './find-site.ts';

const needsRoot = process.getuid?.() === 0 ? false : 'only root mounts layers';
const serve = { site: 'out', entry: 'index.html', missing: null };

const named = { isGuess: false, ran: true, before: new Map() };

/** A commit's tree below a layer that a build writes to. */
async function layered(t: TestContext, committed: Readonly<Record<string, string>>) {
  const folder = realpathSync(mkdtempSync(join(tmpdir(), 'vaquero-found-')));
  t.after(async () => {
    await unmountBelow(folder);
    rmSync(folder, { recursive: true, force: true });
  });
  const [below, tree] = [join(folder, 'below'), join(folder, 'tree')];
  const write = (root: string, path: string, text: string): void => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), text);
  };
  for (const root of [below, tree]) mkdirSync(root);
  for (const [path, text] of Object.entries(committed)) write(below, path, text);
  const { written } = await openLayered(below, tree, join(folder, 'layer'), null);
  return {
    tree,
    written,
    make: (path: string, text: string) => write(tree, path, text),
    find: () =>
      findSite({ tree, layer: { shown: tree, below, written }, committed: null }, serve, named),
  };
}

test('a folder that the build alone wrote is read past the layer; one that was committed too through it', {
  skip: needsRoot,
}, async (t) => {
  const fresh = await layered(t, { 'src/index.html': 'x' });
  fresh.make('out/index.html', 'made');
  const found = await fresh.find();
  assert.deepEqual(found.ok && [found.root, found.files], [
    fresh.written,
    [{ path: 'index.html', source: 'out/index.html' }],
  ]);
  // What was committed there belongs to the site as well, and only the layer shows both.
  const mixed = await layered(t, { 'out/old.html': 'old' });
  mixed.make('out/index.html', 'made');
  const both = await mixed.find();
  assert.deepEqual(both.ok && [both.root, both.files.map(({ path }) => path)], [
    mixed.tree,
    ['index.html', 'old.html'],
  ]);
});

test('a link leads neither out of the site nor past the layer', { skip: needsRoot }, async (t) => {
  const inside = await layered(t, { 'secret.txt': 'committed, not published' });
  inside.make('out/index.html', 'made');
  symlinkSync('../secret.txt', join(inside.tree, 'out/link.txt'));
  const left = await inside.find();
  assert.equal(!left.ok && left.failure.reason, 'link-leaves');
  // The folder itself is a link: it is followed within the tree, as it always was.
  const linked = await layered(t, { 'src/index.html': 'x' });
  linked.make('made/index.html', 'made');
  symlinkSync('made', join(linked.tree, 'out'));
  const through = await linked.find();
  assert.deepEqual(through.ok && [through.root, through.files.map(({ source }) => source)], [
    linked.tree,
    ['made/index.html'],
  ]);
  const away = await layered(t, { 'src/index.html': 'x' });
  symlinkSync('/etc', join(away.tree, 'out'));
  const outside = await away.find();
  assert.equal(!outside.ok && outside.failure.reason, 'link-leaves');
});

test('in a tree that is kept, what was committed stays where it is, and only that', async (t) => {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-site-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  for (const path of ['out/index.html', 'out/committed.html']) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), path);
  }
  symlinkSync('committed.html', join(folder, 'out', 'link.html'));
  const committed = new Set(['out/committed.html']);
  const found = await findSite({ tree: folder, layer: null, committed }, serve, named);
  assert.deepEqual(found.ok && found.files.map(({ path, stays }) => [path, stays]), [
    ['committed.html', true],
    ['index.html', undefined],
    ['link.html', true],
  ]);
});
