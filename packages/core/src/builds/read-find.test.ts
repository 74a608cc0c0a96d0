import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { brandOf } from '../brands/brand-of.ts';
import type { Digest } from '../digest.ts';
import { brandedBy, readFind } from './read-find.ts';

test('a text is read as every thing it may mean', () => {
  assert.equal(readFind('   '), null);
  assert.deepEqual(readFind('221'), { number: 221, hex: null, words: ['221'] });
  assert.deepEqual(readFind(' Build  221 '), { number: 221, hex: null, words: ['build', '221'] });
  assert.deepEqual(readFind('#7'), { number: 7, hex: null, words: ['#7'] });
  // Digits alone can be a number and the beginning of a commit.
  assert.deepEqual(readFind('1234567'), { number: 1_234_567, hex: '1234567', words: ['1234567'] });
  assert.deepEqual(readFind('02D3B1756c'), {
    number: null,
    hex: '02d3b1756c',
    words: ['02d3b1756c'],
  });
  assert.deepEqual(readFind('winter fares  winter'), {
    number: null,
    hex: null,
    words: ['winter', 'fares'],
  });
  assert.equal(readFind('abc')?.hex, null, 'three digits begin too many');
  assert.equal(readFind('a b c d e f g h i j k')?.words.length, 8);
  assert.equal(readFind('9'.repeat(12))?.number, null);
});

const digests = fc
  .string({ unit: fc.constantFrom(...'0123456789abcdef'), minLength: 64, maxLength: 64 })
  .map((text) => text as Digest);

test('a brand is found by its name and by each part of it, and by no other word', () => {
  fc.assert(
    fc.property(digests, fc.array(digests, { maxLength: 5 }), (one, others) => {
      const words = brandOf(one).name.split(' ');
      assert.ok(brandedBy(words, [one, ...others]).includes(one));
      for (const word of words) assert.deepEqual(brandedBy([word], [one]), [one]);
      assert.deepEqual(brandedBy([...words, 'ferry'], [one, ...others]), []);
      for (const found of brandedBy(words, others)) {
        const spoken = brandOf(found).name.split(' ');
        assert.ok(words.every((word) => spoken.includes(word)));
      }
    }),
  );
});
