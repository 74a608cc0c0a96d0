import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import type { Instant } from '../instant.ts';
import {
  admissions,
  type Pass,
  passHolds,
  passText,
  readPass,
  returnPath,
  strictest,
  writePass,
} from './admission.ts';

const pass = fc.record(
  {
    host: fc.domain(),
    visitor: fc.option(fc.stringMatching(/^[0-9a-f]{64}$/)),
    person: fc.stringMatching(/^[a-z][a-z0-9-]{0,30}$/),
    until: fc.nat(2 ** 40).map((at) => at as Instant),
  },
  { noNullPrototype: true },
);

test('a pass is read as it was written, and no two are signed alike', () => {
  fc.assert(
    fc.property(pass, pass, fc.string(), (one, other, signature) => {
      const read = readPass(writePass(one, signature));
      if (/[\n\r]/.test(signature)) return;
      assert.deepEqual(read, { pass: one, signature });
      const isSame = (['host', 'visitor', 'person', 'until'] as const).every(
        (key) => one[key] === other[key],
      );
      assert.equal(passText(one) === passText(other), isSame);
    }),
  );
});

test('what is no pass is none, and a word with line ends is no other pass', () => {
  const one: Pass = { host: 'a.example', visitor: null, person: 'ines', until: 5 as Instant };
  for (const word of [
    '',
    'a:b',
    '%:::1:s',
    'a::p:x:s',
    'a::p:1:s:more',
    'x'.repeat(2_000),
    writePass({ ...one, person: 'ines\n9' }, 's'),
  ])
    assert.equal(readPass(word), undefined, word.slice(0, 30));
});

test('a pass lets in its own visitor at its own host until it ends, and nobody else', () => {
  fc.assert(
    fc.property(pass, pass, fc.nat(2 ** 40), (one, other, now) => {
      const shown = { host: other.host, visitor: other.visitor, now };
      const isOwn = one.host === other.host && one.visitor === other.visitor && now < one.until;
      assert.equal(passHolds(one, shown), isOwn);
      assert.equal(passHolds(one, { ...one, now }), now < one.until);
      assert.equal(passHolds(one, { ...one, host: `x${one.host}`, now }), false);
    }),
  );
});

test('whoever is let in stays at the host, whatever the address says', () => {
  for (const said of ['/', '/a/b?c=d', '/%2f/x', '/a//b']) assert.equal(returnPath(said), said);
  for (const said of [
    null,
    '',
    'https://elsewhere.example/',
    '//elsewhere.example/',
    '/\\elsewhere.example',
    '/ x',
    '/\r\nLocation: x',
    '/.vaquero/enter?word=x',
    'javascript:1',
    `/${'x'.repeat(5_000)}`,
  ])
    assert.equal(returnPath(said), '/', String(said).slice(0, 40));
  const base = 'http://pr-1.timetable.example';
  fc.assert(
    fc.property(fc.string(), (said) => {
      assert.equal(new URL(returnPath(said), base).origin, base);
    }),
  );
});

test('of several the most closed counts, and where nothing says so, members alone', () => {
  assert.equal(strictest([]), 'members');
  assert.equal(strictest(['anyone', 'link']), 'link');
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...admissions), { minLength: 1 }), (all) => {
      const place = Math.max(...all.map((one) => admissions.indexOf(one)));
      assert.equal(strictest(all), admissions[place]);
    }),
  );
});
