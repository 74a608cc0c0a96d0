import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { resolvePath } from './resolve-path.ts';

const files = new Set([
  'index.html',
  '404.html',
  'timetable/index.html',
  'a b.txt',
  'fähre.html',
  'assets/app.js',
  '..evil/x',
]);
const rules = { entry: 'index.html', missing: '404.html' };
const ask = (target: string, missing: string | null = rules.missing) =>
  resolvePath((path) => files.has(path), { ...rules, missing }, target);

test('a path is answered by its file, its folder by the entry page', () => {
  assert.deepEqual(ask('/'), { kind: 'file', path: 'index.html', status: 200 });
  assert.deepEqual(ask('/assets/app.js'), { kind: 'file', path: 'assets/app.js', status: 200 });
  assert.deepEqual(ask('/timetable/'), { kind: 'file', path: 'timetable/index.html', status: 200 });
  assert.deepEqual(ask('/timetable'), { kind: 'moved', to: '/timetable/' });
  assert.deepEqual(ask('/a%20b.txt'), { kind: 'file', path: 'a b.txt', status: 200 });
  assert.deepEqual(ask('/f%C3%A4hre.html'), { kind: 'file', path: 'fähre.html', status: 200 });
});

test('a miss gets the missing page with 404, or nothing', () => {
  assert.deepEqual(ask('/nowhere'), { kind: 'file', path: '404.html', status: 404 });
  assert.deepEqual(ask('/nowhere', null), { kind: 'absent' });
  assert.deepEqual(ask('/assets/', null), { kind: 'absent' });
});

test('what is no path is said to be none', () => {
  for (const target of ['/%', '/%zz', '/%C3%28', '*', 'http://a/', '/a%00b'])
    assert.deepEqual(ask(target), { kind: 'malformed' }, target);
});

test('no spelling of a path reaches anything but a published file of the artifact', () => {
  const hostile = fc
    .array(
      fc.constantFrom(
        '..',
        '.',
        '%2e%2e',
        '%2e',
        '/',
        '%2f',
        '\\',
        '%5c',
        'etc',
        'passwd',
        'index.html',
        '%00',
        '//',
        'timetable',
        '..evil',
        'x',
      ),
      { maxLength: 12 },
    )
    .map((parts) => `/${parts.join('')}`);
  fc.assert(
    fc.property(hostile, (target) => {
      const answer = ask(target);
      if (answer.kind === 'file') assert.ok(files.has(answer.path));
      if (answer.kind === 'moved') assert.match(answer.to, /^\/[^/]/);
    }),
    { numRuns: 2000 },
  );
});

test('a redirect stays on the host it was asked of', () => {
  const odd = resolvePath(
    (path) => path === '/evil.example/index.html' || path === 'evil.example/index.html',
    rules,
    '//evil.example',
  );
  assert.notDeepEqual(odd, { kind: 'moved', to: '//evil.example/' });
});
