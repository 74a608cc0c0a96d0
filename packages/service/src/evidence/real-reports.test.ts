import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import test from 'node:test';
import { readFindings } from './read-findings.ts';
import { readTests } from './read-tests.ts';
import { placeInStack, repositoryPath } from './report-place.ts';

/** What runners wrote of the same four tests: one that fails, one that passes, one yet to be written, one left out. */
const reports: Readonly<Record<string, { failed: string; place: string; counts: number[] }>> = {
  'node.xml': {
    failed: 'fares & "tides" › an adult pays 5.90 <now>',
    place: 'test/fares.node.mjs:2',
    counts: [4, 1, 2],
  },
  'node.tap': {
    failed: 'fares & "tides" › an adult pays 5.90 <now>',
    place: 'test/fares.node.mjs:2:37',
    counts: [4, 1, 2],
  },
  'vitest.xml': {
    failed: 'test/fares.vitest.test.js › fares & "tides" > an adult pays 5.90 <now>',
    place: 'test/fares.vitest.test.js:2',
    counts: [4, 1, 2],
  },
  // This one writes a test that is yet to be written as one that passed.
  'jest.xml': {
    failed: 'fares & "tides" an adult pays 5.90 <now>',
    place: 'test/fares.jest.js:1',
    counts: [4, 1, 1],
  },
  // This one leaves out what did not run.
  'mocha.xml': {
    failed: 'fares & "tides" an adult pays 5.90 <now>',
    place: 'test/fares.mocha.js:2',
    counts: [2, 1, 0],
  },
  'mocha-xunit.xml': {
    failed: 'fares & "tides" › an adult pays 5.90 <now>',
    place: 'test/fares.mocha.js:2',
    counts: [4, 1, 2],
  },
  'pytest.xml': {
    failed: 'test_fares.TestFares › test_adult',
    place: 'test_fares.py:4',
    counts: [4, 1, 2],
  },
};

const written = (name: string): string =>
  readFileSync(new URL(`./real-reports/${name}`, import.meta.url), 'utf8');

for (const [name, { failed, place, counts }] of Object.entries(reports))
  test(`a report as it is written: ${name}`, () => {
    const read = readTests(written(name));
    assert.ok(read.ok);
    const { total, failed: failures, skipped } = read.value;
    assert.deepEqual([total, failures, skipped], counts);
    const [first] = read.value.failures;
    assert.deepEqual([first?.name, first?.place], [failed, place]);
    assert.match(first?.message ?? '', /1 == 2|expected 1 to be 2|toBe|an <adult> & more/);
  });

test('findings as they are written stand at paths of the repository', () => {
  for (const [name, rule, path, line] of [
    ['eslint.sarif', 'ESLint/no-undef', 'bad.js', 1],
    ['ruff.sarif', 'ruff/F401', 'tools/tides.py', 1],
  ] as const) {
    const read = readFindings(written(name));
    assert.ok(read.ok);
    const [first] = read.value;
    assert.deepEqual([first?.rule, first?.path, first?.line], [rule, path, line]);
  }
  const based = readFindings(
    JSON.stringify({
      version: '2.1.0',
      runs: [
        {
          tool: { driver: { name: 'x' } },
          originalUriBaseIds: {
            ROOT: { uri: 'file:///build/' },
            SRC: { uri: 'src/', uriBaseId: 'ROOT' },
            LOOP: { uri: 'a/', uriBaseId: 'LOOP' },
          },
          results: ['SRC', 'ROOT', 'LOOP', '__proto__'].map((uriBaseId) => ({
            message: { text: uriBaseId },
            locations: [{ physicalLocation: { artifactLocation: { uri: 'a%20b.js', uriBaseId } } }],
          })),
        },
      ],
    }),
  );
  assert.ok(based.ok);
  const paths = new Map(based.value.map((one) => [one.message, one.path]));
  assert.deepEqual(
    [paths.get('SRC'), paths.get('ROOT'), paths.get('__proto__')],
    ['src/a b.js', 'a b.js', 'a b.js'],
  );
});

test('a place in a stack is the first inside the repository', () => {
  const stack = `at Object.toBe (/build/node_modules/expect/index.js:9:1)
    at node:internal/test:3:2
    at /usr/lib/node/x.js:4:5
    at file:///build/test/fares.js:7:11
    at /build/other.js:1:1`;
  assert.equal(placeInStack(stack), 'test/fares.js:7');
  assert.equal(placeInStack('nothing here 12:30'), null);
  assert.equal(repositoryPath('/usr/share/x.js'), '/usr/share/x.js');
  assert.equal(repositoryPath('100%.js'), '100%.js');
});
