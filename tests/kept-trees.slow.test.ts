import assert from 'node:assert/strict';
import { readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes } from '@vaquero/contracts';
import { startTestService, type TestService } from './support/service.ts';

const oneSlot = { environment: { VAQUERO_RUNNER_SLOTS: '1' } };

/** What a step said of a build. */
const saidIn = async (service: TestService, build: number, step: string) => {
  const { lines } = await service.operator.call(buildRoutes.logLinesRoute, {
    params: { project: 'timetable', build },
    query: { step, limit: 100 },
  });
  return lines.map((line) => line.text).filter((line) => !line.startsWith('find '));
};

/** A step that sees all of the commit and says what is there; `writes` is a folder inside what it reads. */
const looks = (writes: string) => `steps:
  pages:
    run: find . -mindepth 1 | sort && echo x > ${writes}/index.html
    reads: .
    writes: ${writes}
serve: {site: ${writes}}
`;

test('a tree that becomes the next commit’s holds that commit and nothing else', async (t) => {
  const service = await startTestService(t, oneSlot);
  const made = await service.project('timetable');
  const build = async (message: string, files: Record<string, string | null>) => {
    const { number, failure } = await made.push(message, files);
    assert.equal(failure, null);
    return saidIn(service, number, 'pages');
  };
  assert.deepEqual(
    await build('First', { 'vaquero.yaml': looks('out/site'), 'a/deep/one.txt': '1', b: 'file' }),
    ['./a', './a/deep', './a/deep/one.txt', './b', './out', './out/site', './vaquero.yaml'],
  );
  // The place that was made for what the first wrote is gone; a file took a folder's place, and a folder a file's.
  assert.deepEqual(
    await build('Second', {
      'vaquero.yaml': looks('made'),
      'a/deep/one.txt': null,
      a: 'file now',
      b: null,
      'b/two.txt': '2',
    }),
    ['./a', './b', './b/two.txt', './made', './vaquero.yaml'],
  );
  assert.deepEqual(await build('Third', { 'b/two.txt': null, 'out/own.txt': 'committed' }), [
    './a',
    './made',
    './out',
    './out/own.txt',
    './vaquero.yaml',
  ]);
});

test('a kept tree that was damaged on the disk is fetched whole, and the build knows nothing of it', async (t) => {
  const service = await startTestService(t, oneSlot);
  const made = await service.project('timetable');
  const files = { 'vaquero.yaml': looks('out'), 'words.txt': '1', 'more.txt': 'more' };
  assert.equal((await made.push('First', files)).failure, null);
  const sources = join(service.state, 'slots/0/sources');
  const [kept = ''] = readdirSync(sources);
  // The next commit changes it, so that it is to be taken away first.
  rmSync(join(sources, kept, 'words.txt'));
  const second = await made.push('Second', { 'words.txt': '2' });
  assert.equal(second.failure, null);
  assert.deepEqual(await saidIn(service, 2, 'pages'), [
    './more.txt',
    './out',
    './vaquero.yaml',
    './words.txt',
  ]);
  const [now = ''] = readdirSync(sources);
  assert.notEqual(now, kept, 'the damaged one is kept no more');
  assert.equal((await made.push('Third', { 'words.txt': '3' })).failure, null);
  assert.deepEqual(readdirSync(sources), [now], 'and the whole one became the next');
});

test('steps that write as they please leave nothing in the tree of the next build', async (t) => {
  const service = await startTestService(t, oneSlot);
  const made = await service.project('timetable');
  const recipe = (run: string) =>
    `steps: {pages: {run: ${JSON.stringify(run)}}}\nserve: {site: out}\n`;
  const spoils =
    'rm words.txt && echo spoilt > more.txt && mkdir -p left out && echo x > out/index.html';
  const files = { 'vaquero.yaml': recipe(spoils), 'words.txt': '1\n', 'more.txt': 'more\n' };
  assert.equal((await made.push('First', files)).failure, null);
  const second = await made.push('Second', {
    'vaquero.yaml': recipe('cat words.txt more.txt && ls && mkdir out && echo y > out/index.html'),
  });
  assert.equal(second.failure, null);
  const said = await saidIn(service, 2, 'pages');
  assert.deepEqual(said.slice(-5), ['1', 'more', 'more.txt', 'vaquero.yaml', 'words.txt']);
});
