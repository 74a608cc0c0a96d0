import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { readAddress, writeAddress } from './address.ts';
import { type Answer, makeResolver, withQuery } from './resolve-path.ts';
import { type AddressRules, rulesOf } from './serving-rules.ts';

const pieces = [
  '/',
  'a',
  'b',
  'index',
  '.html',
  'index.html',
  '.',
  '..',
  '%2f',
  '%2e',
  '\\',
  '%5c',
  'x y',
  'ä',
  '%00',
  '#',
  '?',
  '404',
  '*',
];
const target = fc
  .array(fc.constantFrom(...pieces), { maxLength: 8 })
  .map((parts) => `/${parts.join('')}`);
const path = fc
  .array(fc.constantFrom('a', 'b', 'index', 'a.html', 'index.html', 'b.js', '404.html'), {
    minLength: 1,
    maxLength: 3,
  })
  .map((parts) => parts.join('/'));
const address = fc
  .array(fc.constantFrom('a', 'b', 'a.html', 'index.html', '', 'b#x', 'a?y=1'), { maxLength: 3 })
  .map((parts) => `/${parts.join('/')}`.replace(/^\/+/, '/'));
const pattern = fc.tuple(address, fc.boolean()).map(([start, isOpen]) => {
  const [plain = ''] = start.split(/[?#]/);
  return isOpen ? `${plain.replace(/\/$/, '')}/*` : plain;
});
const rules: fc.Arbitrary<Pick<AddressRules, 'moved' | 'instead' | 'base'>> = fc.record({
  base: fc.constantFrom('/', '/', '/a/'),
  moved: fc.array(
    fc.tuple(pattern, fc.oneof(address, pattern)).map(([from, to]) => ({
      from,
      to: from.endsWith('/*') ? to : to.replace(/\*$/, ''),
    })),
    { maxLength: 5 },
  ),
  instead: fc.array(
    fc.tuple(pattern, path).map(([at, page]) => ({ at, page: `/${page}` })),
    { maxLength: 3 },
  ),
});
const site = fc.record({ files: fc.uniqueArray(path, { maxLength: 8 }), rules });

function resolver({
  files,
  rules: said,
}: {
  files: readonly string[];
  rules: Partial<AddressRules>;
}) {
  const there = new Set(files);
  const resolve = makeResolver(
    (one) => there.has(one),
    rulesOf({ entry: 'index.html', missing: '404.html', ...said }),
  );
  return { there, resolve };
}

test('no spelling of a path and no rule reaches anything but a published file', () => {
  fc.assert(
    fc.property(site, target, (given, asked) => {
      const { there, resolve } = resolver(given);
      const answer = resolve(asked);
      if (answer.kind === 'file') assert.ok(there.has(answer.path), answer.path);
      if (answer.kind === 'moved') assert.match(answer.to, /^\/(?![/\\])/);
    }),
    { numRuns: 3000 },
  );
});

test('whoever follows an answer arrives, however rules meet', () => {
  fc.assert(
    fc.property(site, target, (given, asked) => {
      const { resolve } = resolver(given);
      let answer: Answer = resolve(asked);
      // A circle that does not hold leaves the site's own move, which is one more.
      for (let hops = 0; answer.kind === 'moved' && answer.to.startsWith('/'); hops += 1) {
        assert.ok(hops < 3, `${asked} goes on to ${answer.to}`);
        answer = resolve(answer.to.split(/[?#]/, 1)[0] ?? '');
      }
    }),
    { numRuns: 5000 },
  );
});

test('every published file is reached by one address that holds', () => {
  fc.assert(
    fc.property(fc.uniqueArray(path, { maxLength: 8 }), (files) => {
      const { resolve } = resolver({ files, rules: {} });
      for (const file of files) {
        const first = resolve(writeAddress(`/${file}`));
        const last = first.kind === 'moved' ? resolve(first.to) : first;
        assert.ok(last.kind === 'file' && last.path === file, `${file}: ${JSON.stringify(last)}`);
      }
    }),
    { numRuns: 1000 },
  );
});

test('an address written again reads the same', () => {
  fc.assert(
    fc.property(target, (asked) => {
      const read = readAddress(asked);
      if (read !== null) assert.equal(readAddress(writeAddress(read)), read);
    }),
  );
});

test('an artifact of the first form is answered as it was: nothing loses its ending', () => {
  const there = new Set(['index.html', 'fares.html', 'desk/index.html']);
  const resolve = makeResolver((one) => there.has(one), {
    ...rulesOf({ entry: 'index.html', missing: null }),
    endings: 'kept',
  });
  const said = ['/', '/index.html', '/fares', '/fares.html', '/desk', '/desk/', '/desk/index.html'];
  assert.deepEqual(
    said
      .map((one) => resolve(one))
      .map((one) => ('path' in one ? one.path : 'to' in one ? one.to : one.kind)),
    [
      'index.html',
      'index.html',
      'absent',
      'fares.html',
      '/desk/',
      'desk/index.html',
      'desk/index.html',
    ],
  );
});

test('thousands of moves cost no more than one', () => {
  const moved = Array.from({ length: 2000 }, (_, n) => ({ from: `/old/${n}`, to: `/new/${n}` }));
  const resolve = makeResolver(() => false, rulesOf({ entry: 'index.html', missing: null, moved }));
  assert.deepEqual(resolve('/old/1999'), { kind: 'moved', to: '/new/1999' });
  assert.equal(withQuery('/new#x', 'a=b'), '/new?a=b#x');
});
