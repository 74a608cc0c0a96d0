import assert from 'node:assert/strict';
import test from 'node:test';
import { compareFiles } from '../artifacts/compare-files.ts';
import type { SiteFile } from '../artifacts/manifest.ts';
import type { SitePath } from '../artifacts/site-path.ts';
import type { Digest } from '../digest.ts';
import { mostPictured, pagesToPicture } from './pages-to-picture.ts';

const site = (files: Readonly<Record<string, string>>): readonly SiteFile[] =>
  Object.entries(files).map(([path, text]) => ({
    path: path as SitePath,
    digest: Buffer.from(text.padEnd(32)).toString('hex') as Digest,
    sizeBytes: text.length,
    mode: 0o644,
  }));

const pictured = (before: Record<string, string>, after: Record<string, string>) => {
  const [one, other] = [site(before), site(after)];
  return pagesToPicture(compareFiles(one, other).changes, other, 'index.html').map(
    ({ before: was, after: is }) => [was, is],
  );
};

test('pages that differ are pictured, the entry first, those that came and went from one side', () => {
  assert.deepEqual(
    pictured(
      {
        'index.html': 'a',
        'about/x.html': 'b',
        'gone.html': 'c',
        'old.html': 'd',
        'same.html': 'e',
      },
      {
        'index.html': 'A',
        'about/x.html': 'B',
        'new.html': 'n',
        'other.html': 'd',
        'same.html': 'e',
      },
    ),
    [
      ['index.html', 'index.html'],
      ['gone.html', null],
      [null, 'new.html'],
      ['old.html', 'other.html'],
      ['about/x.html', 'about/x.html'],
    ],
  );
});

test('with another style pages of the same bytes may look otherwise; with other data none does', () => {
  const pages = { 'index.html': 'a', 'fares.html': 'b', 'tides.json': '1' };
  assert.deepEqual(
    pictured({ ...pages, 'a.css': 'x' }, { ...pages, 'a.css': 'y', 'fares.html': 'B' }),
    [
      ['fares.html', 'fares.html'],
      ['index.html', 'index.html'],
    ],
  );
  assert.deepEqual(pictured(pages, { ...pages, 'tides.json': '2' }), []);
  const many = Object.fromEntries(Array.from({ length: 40 }, (_, n) => [`p${n}.html`, 'p']));
  assert.equal(pictured({ ...many, 'a.css': 'x' }, { ...many, 'a.css': 'y' }).length, mostPictured);
});
