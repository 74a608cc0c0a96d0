import assert from 'node:assert/strict';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { makeReadingThreads } from './reading-threads.ts';

function place(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-reading-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const threads = makeReadingThreads();
  t.after(threads.stop);
  const file = (name: string, text: string) => {
    writeFileSync(join(folder, name), text);
    return { digest: name, source: join(folder, name), kind: 'page' as const, facts: true };
  };
  return { threads, file };
}

test('a page that takes too long is told, and all others are read', async (t) => {
  const { threads, file } = place(t);
  const harmless = Array.from({ length: 100 }, (_, n) =>
    file(`page-${n}`, `<a href="p${n}.html">x</a>`),
  );
  // Each of these tags is opened again in every element that follows: the tree grows with the square.
  const deep = file('deep', Array.from({ length: 12_000 }, (_, n) => `<a><b id=${n}><p>`).join(''));
  const files = [...harmless.slice(0, 40), deep, ...harmless.slice(40)];
  const [read, beside] = await Promise.all([
    threads.files(files, []),
    threads.report('tests', 'ok 1 - a\n1..1\n'),
  ]);
  assert.deepEqual(
    read.map((one) => (one === 'late' ? 'late' : one.facts?.references[0]?.to)),
    files.map((one) => (one === deep ? 'late' : `${one.digest.replace('page-', 'p')}.html`)),
  );
  assert.ok(beside.ok);
});

test('a report that takes too long cannot be read, and the next one can', async (t) => {
  const { threads } = place(t);
  const attributes = Array.from({ length: 1_000_000 }, (_, n) => `a${n}="${n}"`).join(' ');
  const slow = await threads.report(
    'tests',
    `<testsuite ${attributes}><testcase name="x"/></testsuite>`,
  );
  assert.deepEqual(slow, { ok: false, why: 'reading it took over 2 s' });
  const next = await threads.report('tests', '<testsuite><testcase name="x"/></testsuite>');
  assert.ok(next.ok && next.value.kind === 'tests' && next.value.content.total === 1);
  for (const text of ['{', '{"files":3}', 'null'])
    assert.ok(!(await threads.report('differences', text)).ok, text);
});

test('pages are compared beside all else, and those that take too long are not', async (t) => {
  const threads = makeReadingThreads({ comparingMs: 500 });
  t.after(threads.stop);
  const one = { path: 'index.html', before: 'Lune Quay 14:40', after: 'Lune Quay 14:45' };
  const told = await threads.compare([one]);
  assert.ok(told !== 'late' && told.pages[0]?.lines[0]?.is === 'reworded');
  const long = (seed: number) =>
    Array.from({ length: 40_000 }, (_, n) => (Math.imul(n + 1, seed) >>> 0) % 1_000_003).join('\n');
  const slow = { path: 'slow.html', before: long(2_654_435_761), after: long(40_503) };
  assert.equal(await threads.compare(Array.from({ length: 40 }, () => slow)), 'late');
  assert.notEqual(await threads.compare([one]), 'late');
});

test('a lock file that takes too long tells nothing, and one that does not tells its packages', async (t) => {
  const { threads } = place(t);
  const deep = `packages:\n${Array.from({ length: 400_000 }, (_, n) => `  '/p${n}@1.0.0':\n    a: [b, {c: d}]\n`).join('')}`;
  const [slow, quick] = await Promise.all([
    threads.lock('pnpm-lock.yaml', deep),
    threads.lock('package-lock.json', '{"packages":{"node_modules/clsx":{"version":"2.1.1"}}}'),
  ]);
  assert.equal(slow.size, 0);
  assert.deepEqual([...quick], [['clsx', new Set(['2.1.1'])]]);
});

test('a file that is not there is a fault, and the threads go on', async (t) => {
  const { threads, file } = place(t);
  const absent = { ...file('x', ''), source: '/nowhere' };
  await assert.rejects(threads.files([absent], []), /ENOENT/);
  const [good] = await threads.files(
    [file('y', 'secret tide')],
    [{ name: 'KEY', value: 'secret tide' }],
  );
  assert.ok(good !== 'late' && good?.values[0]?.name === 'KEY');
});
