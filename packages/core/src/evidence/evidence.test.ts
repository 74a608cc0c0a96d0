import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { manifestOf } from '../artifacts/manifest.ts';
import { readSitePath } from '../artifacts/site-path.ts';
import type { Digest } from '../digest.ts';
import { worstFirst } from './finding.ts';
import { inspect } from './inspect.ts';
import type { FileFacts, Inspected } from './inspected.ts';
import { stamp } from './provenance.ts';
import { targetOf } from './reference-target.ts';
import { flakyTests, testReport } from './test-report.ts';

const empty: FileFacts = {
  references: [],
  anchors: [],
  base: null,
  privateAddresses: [],
  keys: [],
  isPointer: false,
};

/** An artifact of some files, each with what was read in it; a path is its own digest. */
function anArtifact(
  files: Readonly<Record<string, Partial<FileFacts> & { readonly sizeBytes?: number }>>,
  more: Partial<Inspected> = {},
): Inspected {
  const sites = Object.entries(files).map(([path, { sizeBytes = 10 }]) => {
    const read = readSitePath(path);
    if ('fault' in read) throw new Error(read.fault);
    return { path: read.path, digest: path as Digest, sizeBytes, mode: 0o644 as const };
  });
  return {
    manifest: manifestOf(sites, { entry: 'index.html', missing: '404.html' }),
    facts: new Map(Object.entries(files).map(([path, facts]) => [path, { ...empty, ...facts }])),
    leaks: [],
    late: new Set(),
    unwritten: new Set(),
    changed: [],
    live: null,
    ...more,
  };
}

const link = (to: string, kind: 'page' | 'asset' = 'page') => ({ to, line: 3, kind });
const told = (inspected: Inspected) =>
  inspect(inspected).map((one) => [one.rule, one.path, one.line, one.message]);

test('every reference within a site must lead somewhere, counted from where it stands', () => {
  const found = told(
    anArtifact({
      'index.html': {
        references: [
          link('fares/'),
          link('fares'),
          link('./fares/index.html?year=2026'),
          link('/fares/#winter'),
          link('https://kettle.example/'),
          link('mailto:desk@kettle.example'),
          link('#top'),
          link('gone.html'),
          link('style.css', 'asset'),
          link('lost.css', 'asset'),
          link('fares/#summer'),
          link('%ff'),
        ],
      },
      'fares/index.html': { anchors: ['winter'], references: [link('../style.css', 'asset')] },
      'style.css': { references: [link('fonts/a.woff2', 'asset')] },
    }),
  );
  assert.deepEqual(found, [
    ['broken-link', 'index.html', 3, 'refers to gone.html, which is not there'],
    ['broken-asset', 'index.html', 3, 'refers to lost.css, which is not there'],
    [
      'broken-anchor',
      'index.html',
      3,
      'refers to fares/#summer, and fares/index.html has no summer',
    ],
    ['broken-link', 'index.html', 3, 'refers to %ff, which is not there'],
    ['broken-asset', 'style.css', 3, 'refers to fonts/a.woff2, which is not there'],
  ]);
});

test('a reference is joined to its page as browsers do', () => {
  const cases: readonly (readonly [string, string | null, string, string | null])[] = [
    ['a/b.html', null, 'c.html', '/a/c.html'],
    ['a/b.html', null, '../c.html', '/c.html'],
    ['a/b.html', null, '../../../c.html', '/c.html'],
    ['a/b.html', null, './', '/a/'],
    ['a/b.html', null, '..', '/'],
    ['a/b.html', null, '', '/a/b.html'],
    ['a/b.html', null, '?x', '/a/b.html'],
    ['a/b.html', '/', 'c.html', '/c.html'],
    ['a/b.html', '/d/', 'c.html', '/d/c.html'],
    ['a/b.html', 'https://kettle.example/', 'c.html', null],
    ['a/b.html', null, '//kettle.example/c', null],
    ['a/b.html', null, 'data:text/plain,x', null],
  ];
  for (const [page, base, to, path] of cases)
    assert.equal(targetOf(`/${page}`, base, to)?.path ?? null, path, `${to} of ${page}`);
});

test('a page that stands in must find what it refers to from a deep address', () => {
  const rules = { entry: 'index.html', missing: null };
  const files = {
    'index.html': {
      references: [link('assets/app.js', 'asset'), link('/style.css', 'asset'), link('fares')],
    },
    'fares.html': {},
    'assets/app.js': {},
    'style.css': {},
  };
  const whole = anArtifact(files);
  const manifest = manifestOf(whole.manifest.site.files, {
    ...rules,
    instead: [{ at: '/planner/*', page: '/' }],
  });
  const far = 'from /planner/deep/link; begin it with /, or give the page a base';
  assert.deepEqual(told({ ...whole, manifest }), [
    ['broken-asset', 'index.html', 3, `refers to assets/app.js, which is not there ${far}`],
  ]);
  const based = anArtifact({ ...files, 'index.html': { ...files['index.html'], base: '/' } });
  assert.deepEqual(told({ ...based, manifest }), []);
});

test('rules that are never asked, hide, go round or lead nowhere are found', () => {
  const whole = anArtifact({ 'index.html': {}, 'fares.html': {}, 'tours/index.html': {} });
  const manifest = manifestOf(whole.manifest.site.files, {
    entry: 'index.html',
    missing: null,
    moved: [
      { from: '/old/*', to: '/tours/*' },
      { from: '/old/one', to: '/fares' },
      { from: '/fares', to: '/tours/' },
      { from: '/a', to: '/b' },
      { from: '/b', to: '/a' },
      { from: '/gone', to: '/nowhere' },
      { from: '/far/*', to: '/nowhere/*' },
      { from: '/away', to: 'https://kettle.example/' },
    ],
    instead: [
      { at: '/app/*', page: '/' },
      { at: '/app/deep', page: '/' },
      { at: '/tours/', page: '/' },
      { at: '/lost/*', page: '/lost.html' },
    ],
  });
  const found = inspect({ ...whole, manifest }).map((one) => `${one.rule}: ${one.message}`);
  assert.deepEqual(found, [
    'rule-shadowed: moved /old/one is never asked: /old/* stands before it',
    'rule-shadowed: moved /fares hides fares.html, which nobody can reach',
    'rule-circle: moved /a leads in a circle by /b, and does not hold',
    'rule-circle: moved /b leads in a circle by /a, and does not hold',
    'rule-nowhere: moved /gone leads to /nowhere, which is not there',
    'rule-nowhere: moved /far/* leads to /nowhere/*, which is not there',
    'rule-shadowed: instead /app/deep is never asked: /app/* stands before it',
    'rule-shadowed: instead /tours/ is never asked: the site has that page',
    'rule-nowhere: instead /lost/* is answered by /lost.html, which is not there',
  ]);
});

test('a page that browsers are told to keep would outlast a rollback', () => {
  const whole = anArtifact({
    'index.html': {},
    'fares.html': {},
    'map/index.html': {},
    'a.js': {},
  });
  const manifest = manifestOf(whole.manifest.site.files, {
    entry: 'index.html',
    missing: null,
    headers: [
      { at: '/fares', fields: { 'Cache-Control': 'public, max-age=600' } },
      { at: '/a.js', fields: { 'Cache-Control': 'max-age=600' } },
      { at: '/', fields: { 'X-Frame-Options': 'DENY' } },
    ],
    immutable: ['/map/**'],
  });
  assert.deepEqual(told({ ...whole, manifest }), [
    [
      'kept-long',
      'fares.html',
      null,
      'is a page that browsers keep for 600 s after a move or a rollback',
    ],
    [
      'kept-long',
      'map/index.html',
      null,
      'is a page that browsers keep for a year after a move or a rollback',
    ],
  ]);
});

test('what a site must not hold, or suddenly lacks, is found', () => {
  const found = inspect(
    anArtifact(
      {
        'index.html': { privateAddresses: [{ address: 'http://localhost:3000', line: 7 }] },
        'key.txt': { keys: [{ what: 'a private key', line: 1 }] },
        'Map.svg': {},
        'map.svg': {},
        'film.mp4': { sizeBytes: 11 << 20 },
        'tide.bin': { isPointer: true },
        'app.js.map': {},
      },
      {
        leaks: [{ path: 'index.html', name: 'MAP_KEY', line: 2 }],
        unwritten: new Set(['key.txt']),
        live: { files: 20, bytes: 1 << 20 },
      },
    ),
  );
  assert.deepEqual(
    new Set(found.map((one) => one.rule)),
    new Set([
      'secret-value',
      'private-address',
      'key-format',
      'not-written',
      'case-clash',
      'large-file',
      'lfs-pointer',
      'source-map',
      'shrank',
    ]),
  );
  assert.equal(worstFirst(found)[0]?.severity, 'error');
  assert.ok(found.every((one) => one.cure !== ''));
});

test('a test is flaky when it both failed and passed', () => {
  const run = (state: 'passed' | 'failed') =>
    testReport([
      { name: 'tide', state, tookMs: 5, message: null, place: null },
      { name: 'pier', state: 'failed', tookMs: 9, message: 'low', place: null },
      { name: 'desk', state: 'skipped', tookMs: null, message: null, place: null },
    ]);
  const { passedNames, slowest, ...counts } = run('passed');
  assert.deepEqual([counts.total, counts.failed, counts.skipped, counts.tookMs], [3, 1, 1, 14]);
  assert.deepEqual([passedNames, slowest[0]?.name], [['tide'], 'pier']);
  const of = (commit: string, state: 'passed' | 'failed') => ({ commit, report: run(state) });
  // Mended by the next commit: that is no flake.
  assert.deepEqual(flakyTests([of('a', 'failed'), of('b', 'passed')]), []);
  assert.deepEqual(flakyTests([of('a', 'passed'), of('b', 'failed'), of('b', 'passed')]), [
    { name: 'tide', failed: 1, of: 3 },
  ]);
});

test('a time stamp is the one that everybody else reckons', () => {
  fc.assert(
    fc.property(fc.integer({ min: -62_135_596_800, max: 253_402_300_799 }), (seconds) => {
      const theirs = new (
        globalThis as unknown as { Date: new (ms: number) => { toISOString: () => string } }
      ).Date(seconds * 1000);
      assert.equal(stamp(seconds * 1000), theirs.toISOString().replace('.000Z', 'Z'));
    }),
  );
});
