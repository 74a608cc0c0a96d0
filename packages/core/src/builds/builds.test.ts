import assert from 'node:assert/strict';
import test from 'node:test';
import { type BuildFailure, failureInWords, faultInWords } from './build-failure.ts';
import { buildStates, isOpen } from './build-state.ts';
import { tellingLine } from './telling-line.ts';

const log = (text: string) =>
  text.split('\n').map((line, place) => ({ number: place + 1, text: line }));

test('the telling line is the error itself: not the source above it, not the echo below', () => {
  const cases: readonly (readonly [string, string | undefined])[] = [
    [
      'reading\n  if (x) throw new Error(`unknown ` + id);\n\nError: unknown harbour "merrow-point"\n    at f (a.js:1:2)\nnpm error code 1',
      'Error: unknown harbour "merrow-point"',
    ],
    [
      "ok\nsrc/a.ts:41:18 - error TS2304: Cannot find name 'x'.\nFound 1 error.",
      "src/a.ts:41:18 - error TS2304: Cannot find name 'x'.",
    ],
    [
      'cc -c a.c\na.c:3:5: error: expected expression\nmake: *** [a.o] Error 1',
      'a.c:3:5: error: expected expression',
    ],
    ['\x1b[31merror\x1b[0m: no such option', 'error: no such option'],
    ['npm error code ENOENT\nnpm error syscall open', 'npm error code ENOENT'],
    ['sh: 1: vite: not found', 'sh: 1: vite: not found'],
    ['all fine\n7 pages written', undefined],
  ];
  for (const [text, told] of cases) assert.equal(tellingLine(log(text))?.text, told);
});

test('every failure says what happened, why, and what to do next', () => {
  const failures: readonly BuildFailure[] = [
    ...(
      [
        { kind: 'exit', exitCode: 2 },
        { kind: 'signal', signal: 'SIGSEGV' },
        { kind: 'time-limit', limitMs: 60_000 },
        { kind: 'memory-limit', limitBytes: 2 ** 32 },
        { kind: 'disk-limit', limitBytes: 2 ** 20 },
        { kind: 'log-limit', limitBytes: 2 ** 20 },
        { kind: 'helper', helper: 'desk' },
        { kind: 'walls', why: 'no namespaces' },
      ] as const
    ).map((end): BuildFailure => ({ reason: 'step', step: 'pages', end, atProcessLimit: false })),
    { reason: 'step', step: 'pages', end: { kind: 'exit', exitCode: 1 }, atProcessLimit: true },
    { reason: 'recipe-missing', because: ['nothing'] },
    {
      reason: 'recipe-invalid',
      file: 'vaquero.yaml',
      faults: [{ path: 'serve', message: 'is absent', line: 2, column: 3 }],
    },
    { reason: 'output-absent', site: 'dist', folders: [{ folder: 'build', files: 12 }] },
    { reason: 'output-absent', site: null, folders: [] },
    { reason: 'output-empty', site: 'dist', folders: [] },
    { reason: 'entry-absent', site: 'dist', entry: 'index.html', folders: [] },
    { reason: 'missing-page-absent', site: 'dist', missing: '404.html' },
    { reason: 'link-leaves', path: 'a', target: '/etc/passwd' },
    { reason: 'special-file', path: 'a', kind: 'socket' },
    { reason: 'bad-name', path: 'a', fault: 'holds a backslash' },
    { reason: 'names-unset', names: ['MAP_KEY'] },
    {
      reason: 'inspection',
      findings: [
        {
          rule: 'key-format',
          severity: 'error',
          message: 'holds a private key',
          path: 'a.pem',
          line: 1,
          cure: 'Remove it.',
        },
      ],
    },
    { reason: 'source', why: 'gone' },
    { reason: 'not-answering', address: 'http://a', why: 'no edge is running' },
    { reason: 'store', why: 'ENOSPC' },
    { reason: 'runner-lost', attempts: 3 },
  ];
  const said = failures.map(failureInWords);
  for (const { what, why, next } of said)
    for (const sentence of [what, why, next]) assert.match(sentence, /^\S.*[.!?]$/s, sentence);
  assert.equal(new Set(said.map((one) => one.what)).size, said.length);
  assert.equal(said[11]?.what, '“dist” is not there.');
  assert.equal(said[11]?.why, '“build” has an index.html and 12 files.');
  assert.equal(said[11]?.next, 'Set serve.site to “build” and build again.');
});

test('a fault is said with its place', () => {
  assert.equal(
    faultInWords({ path: 'serve.site', message: 'must be text', line: 4, column: 9 }),
    'line 4, column 9: serve.site must be text.',
  );
  assert.equal(
    faultInWords({ path: '', message: 'is empty', line: null, column: null }),
    'is empty.',
  );
});

test('a build is open until it has ended', () => {
  assert.deepEqual(buildStates.filter(isOpen), ['queued', 'waiting', 'running']);
});
