import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { Serve } from '@vaquero/core';
import { pagesBefore } from './committed-pages.ts';
import { findSite } from './find-site.ts';
import { openFileStore } from './store-files.ts';
import { walkOutput } from './walk-output.ts';

function tree(t: TestContext, files: Readonly<Record<string, string>>): string {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-tree-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  for (const [path, text] of Object.entries(files)) {
    mkdirSync(join(folder, path, '..'), { recursive: true });
    writeFileSync(join(folder, path), text);
  }
  return folder;
}

function recipe(site: string | null, more: Partial<Serve> = {}): Serve {
  return { site, entry: 'index.html', missing: null, ...more };
}

test('a walk finds every file in the order of its bytes, with links as the files they lead to', (t) => {
  const folder = tree(t, { 'b.html': 'b', 'a/c.html': 'c', 'a.html': 'a' });
  symlinkSync('a', join(folder, 'link'));
  const walked = walkOutput(folder);
  assert.ok(walked.ok);
  assert.deepEqual(
    walked.files.map((file) => file.path),
    ['a/c.html', 'a.html', 'b.html', 'link/c.html'],
  );
});

test('links that leave, go nowhere or round in a circle end a walk', (t) => {
  for (const target of ['/etc/passwd', '../../etc', 'nowhere', 'self']) {
    const folder = tree(t, { 'index.html': 'x' });
    symlinkSync(target, join(folder, 'self'));
    const walked = walkOutput(folder);
    assert.ok(!walked.ok && walked.failure.reason === 'link-leaves', target);
    assert.equal(walked.failure.target, target);
  }
  // A sibling whose name begins with the folder's own is outside all the same.
  const folder = tree(t, { 'out/index.html': 'x', 'outside/secret': 'x' });
  symlinkSync('../outside/secret', join(folder, 'out', 'link'));
  assert.ok(!walkOutput(folder, 'out').ok);
  // One that goes out and comes back stays in it.
  rmSync(join(folder, 'out', 'link'));
  symlinkSync('../out/index.html', join(folder, 'out', 'round'));
  const round = walkOutput(folder, 'out');
  assert.deepEqual(round.ok && round.files.map(({ path, source }) => [path, source]), [
    ['index.html', 'out/index.html'],
    ['round', 'out/index.html'],
  ]);
});

test('the folder of a site is found by its name, or by how it looks when it was left open', async (t) => {
  const folder = tree(t, {
    'src/index.html': 'source',
    'example/index.html': 'sample',
    'example/b.js': 'b',
    'example/c.js': 'c',
  });
  const before = pagesBefore(folder, 'index.html');
  mkdirSync(join(folder, 'dist'));
  for (const name of ['index.html', 'a.js']) writeFileSync(join(folder, 'dist', name), 'made');
  const known = { isGuess: false, ran: true, before };
  const open = await findSite({ tree: folder, layer: null, committed: null }, recipe(null), known);
  assert.deepEqual([open.ok, open.ok && open.site], [true, 'dist']);
  const named = await findSite(
    { tree: folder, layer: null, committed: null },
    recipe('example'),
    known,
  );
  assert.deepEqual([named.ok, named.ok && named.files.length], [true, 3]);
  const cases = [
    [recipe('build'), 'output-absent'],
    [recipe('dist', { entry: 'main.html' }), 'entry-absent'],
    [recipe('dist', { missing: '404.html' }), 'missing-page-absent'],
    [recipe('dist/a.js'), 'output-absent'],
  ] as const;
  for (const [wanted, reason] of cases) {
    const found = await findSite({ tree: folder, layer: null, committed: null }, wanted, known);
    assert.ok(!found.ok);
    assert.equal(found.failure.reason, reason);
  }
  symlinkSync('/usr/share', join(folder, 'away'));
  const away = await findSite(
    { tree: folder, layer: null, committed: null },
    recipe('away'),
    known,
  );
  assert.ok(!away.ok && away.failure.reason === 'link-leaves');
});

test('what a build wrote comes before what was committed, whatever a proposal guessed', async (t) => {
  const folder = tree(t, { 'apps/web/index.html': 'source', 'dist/index.html': 'old', 'x.js': '' });
  const before = pagesBefore(folder, 'index.html');
  const find = (site: string | null, ran = true) =>
    findSite({ tree: folder, layer: null, committed: null }, recipe(site), {
      isGuess: true,
      ran,
      before,
    });
  // Nothing was written: old output and sources are not taken for the build's.
  for (const site of [null, 'dist', 'build']) {
    const none = await find(site);
    assert.ok(!none.ok && none.failure.reason === 'output-absent');
    assert.deepEqual(
      none.failure.folders.map((one) => [one.folder, one.committed]),
      [
        ['apps/web', true],
        ['dist', true],
      ],
    );
  }
  const shown = await find('dist', false);
  assert.ok(shown.ok && shown.site === 'dist');
  // A folder below a committed page, and one whose page was written anew, are the build's.
  mkdirSync(join(folder, 'apps/web/dist'));
  writeFileSync(join(folder, 'apps/web/dist/index.html'), 'made');
  const inner = await find('build');
  assert.ok(inner.ok && inner.site === 'apps/web/dist');
  rmSync(join(folder, 'dist/index.html'));
  writeFileSync(join(folder, 'dist/index.html'), 'new');
  const anew = await find('dist');
  assert.ok(anew.ok && anew.site === 'dist');
});

test('plain pages are published without the recipe that says so', async (t) => {
  const folder = tree(t, { 'index.html': 'x', 'vaquero.yaml': 'recipe: site', 'a.css': 'y' });
  const found = await findSite({ tree: folder, layer: null, committed: null }, recipe('.'), {
    isGuess: false,
    ran: false,
    before: new Map(),
  });
  assert.deepEqual(found.ok && found.files.map((file) => file.path), ['a.css', 'index.html']);
});

test('what is stored is named by its bytes, read-only, and apart from what a build kept', async (t) => {
  const folder = tree(t, {
    'one.txt': 'tide',
    'two.txt': 'tide',
    'kept.txt': 'ebb',
    'empty.txt': '',
  });
  linkSync(join(folder, 'kept.txt'), join(folder, 'second-name.txt'));
  chmodSync(join(folder, 'two.txt'), 0o755);
  const directory = join(folder, 'store');
  const store = openFileStore(directory);
  t.after(store.stop);
  const walked = walkOutput(folder);
  assert.ok(walked.ok);
  const files = walked.files.filter((file) => !file.path.startsWith('store/'));
  const stored = await store.store(folder, files);
  assert.equal(stored.length, files.length);
  assert.deepEqual(
    stored.filter((file) => file.mode === 0o755).map((file) => file.path),
    ['two.txt'],
  );
  for (const { path, digest, sizeBytes } of stored) {
    const blob = join(directory, 'sha256', digest.slice(0, 2), digest);
    const bytes = readFileSync(join(folder, path));
    assert.equal(digest, createHash('sha256').update(bytes).digest('hex'));
    assert.equal(sizeBytes, bytes.length);
    assert.deepEqual(readFileSync(blob), bytes);
    assert.equal(statSync(blob).mode & 0o777, 0o444);
  }
  // The file with two names was copied: writing through either changes nothing that is stored.
  chmodSync(join(folder, 'second-name.txt'), 0o644);
  writeFileSync(join(folder, 'second-name.txt'), 'FLOOD');
  const ebb = createHash('sha256').update('ebb').digest('hex');
  assert.equal(readFileSync(join(directory, 'sha256', ebb.slice(0, 2), ebb), 'utf8'), 'ebb');
  // Storing again changes nothing, and a blob that a crash cut short is made whole.
  const tide = createHash('sha256').update('tide').digest('hex');
  const path = join(directory, 'sha256', tide.slice(0, 2), tide);
  rmSync(path);
  writeFileSync(path, 'ti');
  writeFileSync(join(folder, 'again.txt'), 'tide');
  await store.store(folder, [{ path: 'again.txt', source: 'again.txt' }]);
  assert.equal(readFileSync(path, 'utf8'), 'tide');
});

test('a store that cannot take a file says so, and takes the next', async (t) => {
  const folder = tree(t, { 'a.txt': 'a' });
  const store = openFileStore(join(folder, 'store'));
  t.after(store.stop);
  const absent = [{ path: 'x', source: 'x' }];
  await assert.rejects(store.store(folder, absent), /ENOENT/);
  const [stored] = await store.store(folder, [{ path: 'a.txt', source: 'a.txt' }]);
  assert.equal(stored?.sizeBytes, 1);
});

test('links that multiply names without end, and more files than an artifact may have, end a walk soon', (t) => {
  // Each of 28 folders leads twice to the next one: 2^28 names, and no file among them.
  const folder = tree(t, { 'index.html': 'x' });
  for (let level = 0; level <= 28; level += 1) mkdirSync(join(folder, `l${level}`));
  for (let level = 0; level < 28; level += 1)
    for (const name of ['one', 'two'])
      symlinkSync(`../l${level + 1}`, join(folder, `l${level}`, name));
  const walked = walkOutput(folder);
  assert.ok(!walked.ok && walked.failure.reason === 'store');
  assert.match(walked.failure.why, /over 200000 files/);
});
