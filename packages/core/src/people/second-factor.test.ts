import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import test from 'node:test';
import fc from 'fast-check';
import { roles } from './may.ts';
import { isFactorDemanded, readFactorCode, recoveryWord } from './second-factor.ts';

test('a second factor is demanded of whoever has the role, or one above it, anywhere', () => {
  for (const [place, role] of roles.entries())
    for (const [other, from] of roles.entries())
      assert.equal(isFactorDemanded(from, [{ project: 'p', role }]), place >= other);
  assert.equal(isFactorDemanded(null, [{ project: null, role: 'operator' }]), false);
  assert.equal(isFactorDemanded('reader', []), false);
});

test('a recovery word is read as it was shown, however it is typed; a code is six digits', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 12, maxLength: 12 }), (bytes) => {
      const word = recoveryWord(bytes);
      assert.match(word, /^[0-9a-z]{4}-[0-9a-z]{4}-[0-9a-z]{4}$/);
      for (const typed of [word, word.toUpperCase(), word.replaceAll('-', ' '), ` ${word} `])
        assert.deepEqual(readFactorCode(typed), { kind: 'word', text: word });
      assert.deepEqual(readFactorCode(word.replaceAll('0', 'O').replaceAll('1', 'l'))?.text, word);
    }),
  );
  assert.deepEqual(readFactorCode('123 456'), { kind: 'code', text: '123456' });
  for (const none of ['', '12345', '1234567', 'u'.repeat(12), 'x'.repeat(1000), '１２３４５６'])
    assert.equal(readFactorCode(none), undefined, none);
  assert.equal(
    new Set(Array.from({ length: 1000 }, () => recoveryWord(randomBytes(12)))).size,
    1000,
  );
});
