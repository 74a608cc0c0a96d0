import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import test from 'node:test';
import fc from 'fast-check';
import { hostLabelOf, readDigest, readHostLabel } from './digest.ts';

const digest = fc.uint8Array({ minLength: 32, maxLength: 32 }).map((bytes) => {
  const read = readDigest(Buffer.from(bytes).toString('hex'));
  assert.ok(read !== undefined);
  return read;
});

test('a host label gives back its digest and fits into a host name', () => {
  fc.assert(
    fc.property(digest, (one) => {
      const label = hostLabelOf(one);
      assert.equal(label.length, 52);
      assert.match(label, /^[a-z2-7]+$/);
      assert.equal(readHostLabel(label), one);
    }),
  );
});

test('a host label is the base32 of RFC 4648', () => {
  const text = createHash('sha256').update('').digest('hex');
  const read = readDigest(text);
  assert.ok(read !== undefined);
  // The same bytes through coreutils: printf … | xxd -r -p | base32
  assert.equal(hostLabelOf(read), '4oymiquy7qobjgx36tejs35zeqt24qpemsnzgtfeswmrw6csxbkq');
});

test('what is no digest and no label is not read as one', () => {
  for (const text of ['', 'abc', 'G'.repeat(64), 'A'.repeat(64)])
    assert.equal(readDigest(text), undefined);
  for (const text of ['', 'staging', `${'a'.repeat(51)}b`, 'A'.repeat(52), '1'.repeat(52)]) {
    assert.equal(readHostLabel(text), undefined);
  }
});
