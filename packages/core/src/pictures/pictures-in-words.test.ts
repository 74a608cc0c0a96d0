import assert from 'node:assert/strict';
import test from 'node:test';
import { addressOfPage, picturesInWords, pixelsInWords } from './pictures-in-words.ts';

const page = (share: number | null, before: string | null = 'a', after: string | null = 'a') => ({
  before,
  after,
  share,
});

test('pictures are told by how many pages look otherwise, came, went, or could not be taken', () => {
  const all = [page(0.2), page(0), page(0), page(1, null), page(1, 'a', null), page(null)];
  assert.equal(
    picturesInWords('taken', null, all),
    '1 page looks otherwise, 2 look the same, 1 is new, 1 is gone, 1 could not be pictured',
  );
  assert.equal(
    picturesInWords('failed', 'it took too long', []),
    'there are none: it took too long',
  );
  assert.match(picturesInWords('wanted', null, []), /a runner that has Chromium/);
});

test('a share has one digit, and what is some is never none', () => {
  assert.deepEqual(
    [0.0324, 0.5, 1, 0.00001, 0].map(pixelsInWords),
    ['3.2 %', '50 %', '100 %', 'under 0.1 %', '0 %'].map((one) => `${one} of its pixels`),
  );
});

test('a page has the address that people see', () => {
  assert.deepEqual(
    ['index.html', 'fares.html', 'docs/index.htm', 'docs/a.html'].map(addressOfPage),
    ['/', '/fares', '/docs/', '/docs/a'],
  );
});
