import assert from 'node:assert/strict';
import test from 'node:test';
import { pushedRefFault, readRefName, readSitePath } from '@vaquero/core';
import fc from 'fast-check';
import { readPush } from '../repositories/side-band.ts';
import { readFacts } from './file-facts.ts';
import { readReport } from './read-report.ts';

/** Texts that are almost what a reader takes. */
const near = (...words: readonly string[]) =>
  fc
    .array(fc.oneof(fc.constantFrom(...words), fc.string({ maxLength: 6 })), { maxLength: 40 })
    .map((all) => all.join(''));
const xml = near(
  '<testsuites>',
  '<testsuite name="a">',
  '<testcase name="b" time="1">',
  '<failure>',
  ']]>',
  '<![CDATA[',
  '</testcase>',
  '</testsuite>',
  '</testsuites>',
  '&amp;',
  '&#x0;',
  '<!--',
  '-->',
  '<?xml?>',
  '<__proto__>',
  ' constructor="x"',
);
const tap = near(
  'TAP version 13\n',
  'ok 1 - a\n',
  'not ok 2\n',
  '1..2\n',
  '    ',
  '  ---\n',
  '  ...\n',
  'Bail out!\n',
  '# Subtest: x\n',
  '__proto__: 1\n',
  ' # SKIP\n',
);
const sarif = near(
  '{"version":"2.1.0","runs":[',
  '{"tool":{"driver":{"name":"x","rules":[]}},"results":[',
  '{"message":{"text":"x"}}',
  ']}',
  ']}',
  ',',
  'null',
  '{"__proto__":',
  '1e999',
  '"\\ud800"',
);
const runs = { numRuns: 300 };

test('whatever a report says, it is read or said to be unreadable, and nothing of the prototype is touched', () => {
  for (const [kind, text] of [
    ['tests', xml],
    ['tests', tap],
    ['findings', sarif],
    ['differences', sarif],
  ] as const)
    fc.assert(
      fc.property(fc.oneof(text, fc.string()), (written) => {
        const read = readReport(kind, written);
        assert.ok(read.ok ? read.value.kind === kind : read.why !== '');
        assert.equal(({} as { polluted?: unknown }).polluted, undefined);
      }),
      runs,
    );
});

test('whatever a page or a style holds, its facts are read and bounded', () => {
  const page = near(
    '<a href="',
    '">',
    '<base href="',
    '<svg><use xlink:href="#',
    '<style>@import "',
    'url(',
    ')',
    '<template>',
    '<!--',
    '\0',
    '&#0;',
    '<b><i><p>',
    '</',
    'srcset="a 1x, ',
  );
  for (const kind of ['page', 'style', 'other'] as const)
    fc.assert(
      fc.property(
        fc.oneof(
          page.map((text) => Buffer.from(text)),
          fc.uint8Array({ maxLength: 300 }).map((bytes) => Buffer.from(bytes)),
        ),
        (bytes) => {
          const { references, keys } = readFacts(kind, bytes);
          assert.ok(references.length <= 5000 && keys.length <= 100);
        },
      ),
      runs,
    );
});

test('an address of the office is found where it is asked for, and not where it is spoken of', () => {
  const cases: readonly (readonly ['page' | 'style' | 'other', string, string[]])[] = [
    ['page', '<p>Open http://localhost:3000 and look</p>', []],
    ['page', '<pre><code>curl http://127.0.0.1:8080/fares</code></pre>', []],
    ['page', '<a href="http://localhost:3000/">http://localhost:3000/</a>', []],
    ['page', '<a href="http://localhost:3000/">the fares</a>', ['http://localhost:3000']],
    ['page', '<form action=http://10.1.2.3/book>', ['http://10.1.2.3']],
    ['page', '<img src="https://192.168.1.4:8443/a.png">', ['https://192.168.1.4:8443']],
    ['page', '<img src="http://localhost.example/a.png">', []],
    ['page', '<script>fetch("http://localhost:4000/fares")</script>', ['http://localhost:4000']],
    ['page', '<style>a{background:url(http://localhost:9/a.png)}</style>', ['http://localhost:9']],
    ['style', '@import "http://127.0.0.1/a.css";', ['http://127.0.0.1']],
    ['other', 'const api="http://localhost:3000/api"', ['http://localhost:3000']],
    ['other', "const api='http://localhost/api'", ['http://localhost']],
    ['other', 'new URL(path,"http://localhost")', []],
    ['other', 'new URL(path,"http://localhost/")', []],
    ['other', '{children:"http://localhost:3000"}', []],
    ['other', '{"children":"http://localhost:3000"}', []],
    ['other', '{"text":"Now open http://localhost:3000 and look"}', []],
    ['other', '# Start\n\nOpen http://localhost:3000\n', []],
    ['other', '{"api":"http://172.20.0.3:80/"}', ['http://172.20.0.3:80']],
  ];
  for (const [kind, text, found] of cases)
    assert.deepEqual(
      readFacts(kind, Buffer.from(text)).privateAddresses.map(({ address }) => address),
      found,
      text,
    );
});

test('whatever a push begins with, its commands are understood or it is odd', () => {
  const id = '0'.repeat(40);
  const pieces = fc.oneof(
    fc.constantFrom(
      '0000',
      '0001',
      '0003',
      'ffff',
      `0067${id} ${id} refs/heads/x\0`,
      'PACK',
      'push-cert',
      'shallow ',
    ),
    fc.string(),
  );
  fc.assert(
    fc.property(fc.array(pieces, { maxLength: 12 }), (all) => {
      const { refs, options } = readPush(Buffer.from(all.join(''), 'latin1'));
      assert.ok(
        refs === null || refs.every(({ name, to }) => name !== '' && /^[0-9a-f]+$/.test(to)),
      );
      assert.ok(Array.isArray(options));
    }),
    { numRuns: 2000 },
  );
});

test('a ref that may be pushed is one that Git takes, and a path of a site stays in it', () => {
  const names = near('refs/', 'heads/', 'tags/', '..', '/', '-', '.lock', '@{', 'HEAD', '\n', 'a');
  fc.assert(
    fc.property(names, (name) => {
      if (pushedRefFault(name) !== null) return;
      assert.ok(readRefName(name) !== undefined && /^refs\/(?:heads|tags)\/[^-]/.test(name), name);
    }),
    { numRuns: 3000 },
  );
  fc.assert(
    fc.property(near('..', '.', '/', '\\', '\0', '.git', 'a', '%2e', '\u202e'), (path) => {
      const read = readSitePath(path);
      if ('fault' in read) return;
      const parts = path.split('/');
      assert.ok(!parts.includes('..') && !parts.includes('.') && !path.startsWith('/'), path);
    }),
    { numRuns: 3000 },
  );
});
