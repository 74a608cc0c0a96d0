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
