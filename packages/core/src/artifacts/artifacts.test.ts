import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { canonical } from '../audit/log-entry.ts';
import type { Digest } from '../digest.ts';
import { compareFiles } from './compare-files.ts';
import { encodeManifest, manifestFault, manifestOf, type SiteFile, sizeOf } from './manifest.ts';
import { siteFolders } from './site-folders.ts';
import { compareBytes, readSitePath, type SitePath } from './site-path.ts';

const file = (path: string, digit = 'a'): SiteFile => ({
  path: path as SitePath,
  digest: digit.repeat(64) as Digest,
  sizeBytes: 3,
  mode: 0o644,
});

test('paths are ordered by their bytes, as every other tool orders them', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'binary' }), (a, b) => {
      assert.equal(
        Math.sign(compareBytes(a, b)),
        Math.sign(Buffer.compare(Buffer.from(a), Buffer.from(b))),
      );
    }),
  );
  // A surrogate pair sorts before U+FFFD in UTF-16 and behind it in UTF-8.
  assert.ok(compareBytes('\u{1F6A2}', '\uFFFC') > 0);
});

test('equal files give equal bytes in whatever order they are found', () => {
  const files = [file('b.html'), file('a/b.html', 'b'), file('a.html', 'c'), file('a/ä.html', 'd')];
  const rules = { entry: 'index.html', missing: null };
  fc.assert(
    fc.property(fc.shuffledSubarray(files, { minLength: files.length }), (shuffled) => {
      assert.equal(
        encodeManifest(manifestOf(shuffled, rules)),
        encodeManifest(manifestOf(files, rules)),
      );
    }),
  );
  assert.notEqual(
    encodeManifest(manifestOf(files, rules)),
    encodeManifest(manifestOf(files, { ...rules, missing: '404.html' })),
  );
  assert.deepEqual(sizeOf(manifestOf(files, rules)), { files: 4, bytes: 12 });
});

test('a manifest is exactly these bytes, on every machine and in every version', () => {
  assert.equal(
    encodeManifest({
      format: 1,
      site: { files: [file('index.html')], entry: 'index.html', missing: null },
    }),
    `{"format":1,"site":{"entry":"index.html","files":[{"digest":"${'a'.repeat(64)}","mode":420,"path":"index.html","sizeBytes":3}],"missing":null}}`,
  );
  const second = encodeManifest(
    manifestOf([file('index.html')], {
      entry: 'index.html',
      missing: '404.html',
      base: '/desk/',
      moved: [{ from: '/a', to: '/desk/' }],
      instead: [{ at: '/desk/*', page: '/desk/' }],
      headers: [{ at: '/*', fields: { 'X-Z': '1', 'X-A': '2' } }],
      immutable: ['/desk/assets/**'],
    }),
  );
  assert.equal(
    second,
    `{"configuration":null,"format":2,"server":null,"site":{"base":"/desk/","entry":"index.html","files":[{"digest":"${'a'.repeat(64)}","mode":420,"path":"index.html","sizeBytes":3}],"headers":[{"at":"/*","fields":{"X-A":"2","X-Z":"1"}}],"immutable":["/desk/assets/**"],"instead":[{"at":"/desk/*","page":"/desk/"}],"missing":"404.html","moved":[{"from":"/a","to":"/desk/"}]}}`,
  );
  assert.equal(second, canonical(JSON.parse(second)));
});

test('a manifest of a form or with parts that are not known is refused by name', () => {
  const known = manifestOf([file('index.html')], { entry: 'index.html', missing: null });
  assert.equal(manifestFault(known), null);
  assert.equal(manifestFault({ format: 1 }), null);
  const refused = [
    { format: 3 },
    { ...known, server: { files: 'x' } },
    { ...known, configuration: {} },
  ];
  for (const [place, what] of ['form 3', 'a server', 'a configuration'].entries())
    assert.match(manifestFault(refused[place] ?? known) ?? '', new RegExp(what));
});

test('a name without an honest address is refused with its own reason', () => {
  const cases: readonly (readonly [string, string | undefined])[] = [
    ['index.html', undefined],
    ['fähre/plan 1.html', undefined],
    ['a\u0000b', 'holds a control character'],
    ['a\nb', 'holds a control character'],
    ['a\\b', 'holds a backslash'],
    ['../a', 'has a segment that is empty, "." or ".."'],
    ['a//b', 'has a segment that is empty, "." or ".."'],
    ['./a', 'has a segment that is empty, "." or ".."'],
    ['', 'has a segment that is empty, "." or ".."'],
    ['a/.git/config', 'lies in a .git folder'],
    ['a/.GIT/config', 'lies in a .git folder'],
    ['x'.repeat(256), 'has a segment over 255 bytes'],
    ['ä'.repeat(128), 'has a segment over 255 bytes'],
    ['a/'.repeat(600).concat('b'), 'is over 1,024 bytes'],
    ['\uFFFD', 'is not valid UTF-8'],
  ];
  for (const [path, fault] of cases) {
    const read = readSitePath(path);
    assert.equal('fault' in read ? read.fault : undefined, fault, JSON.stringify(path));
  }
});

test('folders that look like a site: made by the build first, then by size, never sources or packages', () => {
  const paths = [
    'src/index.html',
    'node_modules/x/index.html',
    'example/index.html',
    'example/a.css',
    'example/b.css',
    'build/index.html',
    'build/docs/index.html',
    'dist/index.html',
    'dist/a.js',
    '.cache/index.html',
  ];
  const before = new Set(['example/index.html', 'src/index.html']);
  assert.deepEqual(siteFolders(paths, 'index.html', before), [
    { folder: 'build', files: 2 },
    { folder: 'dist', files: 2 },
    { folder: 'example', files: 3, committed: true },
  ]);
  // A built site below a committed page is a site of its own.
  const nested = [
    'web/index.html',
    'web/dist/index.html',
    'web/dist/a.js',
    'docs/.vitepress/dist/index.html',
  ];
  assert.deepEqual(
    siteFolders(nested, 'index.html', new Set(['web/index.html'])).map((one) => one.folder),
    ['web/dist', 'docs/.vitepress/dist', 'web'],
  );
  assert.deepEqual(siteFolders(['a.txt'], 'index.html', new Set()), []);
});

test('files are compared by name and bytes: added, changed, removed, renamed, and sizes by type', () => {
  const file = (path: string, digest: string, sizeBytes = 10) =>
    ({ path, digest, sizeBytes, mode: 0o644 }) as unknown as SiteFile;
  const { changes, same, types, before, after } = compareFiles(
    [file('a.html', '1'), file('b.css', '2'), file('old.png', '3'), file('gone.js', '4', 7)],
    [file('a.html', '5', 25), file('b.css', '2'), file('new.png', '3'), file('c.html', '6', 2)],
  );
  assert.deepEqual(
    changes.map(({ path, how, from, before: was, after: is }) => [path, how, from, was, is]),
    [
      ['a.html', 'changed', null, 10, 25],
      ['c.html', 'added', null, null, 2],
      ['gone.js', 'removed', null, 7, null],
      ['new.png', 'renamed', 'old.png', 10, 10],
    ],
  );
  assert.deepEqual([same, before.bytes, after.bytes], [1, 37, 47]);
  assert.deepEqual(types, [
    { type: 'html', before: 10, after: 27 },
    { type: 'js', before: 7, after: 0 },
  ]);
});

test('whatever two artifacts hold: each can be made of the other and what is said to differ', () => {
  const files = fc
    .uniqueArray(fc.tuple(fc.constantFrom('a', 'b', 'c', 'd', 'e'), fc.constantFrom('1', '2')), {
      selector: ([path]) => path,
    })
    .map((all) =>
      all.map(
        ([path, digest]) => ({ path, digest, sizeBytes: 1, mode: 0o644 }) as unknown as SiteFile,
      ),
    );
  fc.assert(
    fc.property(files, files, (before, after) => {
      const { changes, same } = compareFiles(before, after);
      const names = new Set<string>(before.map(({ path }) => path));
      for (const { how, path, from } of changes) {
        if (how === 'removed') names.delete(path);
        if (from !== null) names.delete(from);
      }
      for (const { how, path } of changes) if (how !== 'removed') names.add(path);
      assert.deepEqual([...names].sort(), after.map(({ path }) => path as string).sort());
      assert.equal(same + changes.filter(({ how }) => how !== 'removed').length, after.length);
    }),
  );
});
