import assert from 'node:assert/strict';
import { createHash, randomBytes } from 'node:crypto';
import {
  appendFileSync,
  existsSync,
  readdirSync,
  readFileSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, headersOfRole } from '@vaquero/contracts';
import { anotherRunner } from './support/another-runner.ts';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';

/** A step that takes its time to write folders, links and a program, and one that makes pages of them. */
const recipe = `steps:
  parts:
    run: mkdir -p parts/deep parts/empty && cp tide.txt parts/deep/ && ln -s deep/tide.txt parts/link && printf '#!/bin/sh\\necho ran' > parts/tool && chmod 755 parts/tool
    reads: tide.txt
    writes: parts
  pages:
    run: test -d parts/empty && mkdir -p out && { cat words.txt parts/link; parts/tool; } > out/index.html
    reads: words.txt
    writes: out
    after: parts
serve: {site: out}
`;
const files = (words: string) => ({
  'vaquero.yaml': recipe,
  'tide.txt': 'low\n',
  'words.txt': words,
});

const sharedIn = (service: TestService): readonly string[] => {
  const folder = join(service.state, 'shared-outputs');
  return existsSync(folder) ? readdirSync(folder) : [];
};
const statesOf = async (service: TestService, build: number) => {
  const { steps, artifact } = await service.operator.call(buildRoutes.showBuildRoute, {
    params: { project: 'timetable', build },
  });
  assert.ok(artifact !== null);
  return Object.fromEntries(steps.map((step) => [step.name, step.state]));
};
const page = async (service: TestService): Promise<string> =>
  (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text;

test('what one runner made another takes, whole and under its own name only', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const first = await anotherRunner(t, service, 'quay');
  const made = await service.project('timetable');
  assert.equal((await made.push('Alone', files('one\n'))).failure, null);
  assert.equal((await made.push('Alone again', files('two\n'))).failure, null);
  // The service's own runner is known, though it does not run: there is somebody who may need it.
  await until('both steps of both builds are given', () =>
    Promise.resolve(sharedIn(service).length === 3),
  );
  await first.stop();

  const second = await anotherRunner(t, service, 'pier');
  assert.equal((await made.push('Elsewhere', files('three\n'))).failure, null);
  const states = await statesOf(service, 3);
  assert.deepEqual([states.parts, states.pages], ['reused', 'passed']);
  assert.equal(await page(service), 'three\nlow\nran\n');
  // It keeps what it took: its sealed outputs bear the same names.
  const taken = sharedIn(service).filter((name) => existsSync(join(second.state, 'outputs', name)));
  assert.equal(taken.length, 2, 'the parts, and the pages that it made and gave itself');
  await second.stop();

  // Whatever became of an archive, nobody uses what does not bear its name: the step is run.
  for (const name of sharedIn(service)) {
    const path = join(service.state, 'shared-outputs', name);
    const bytes = readFileSync(path);
    writeFileSync(path, bytes.toString('latin1').replaceAll('low\n', 'LOW\n'), 'latin1');
  }
  const third = await anotherRunner(t, service, 'slip');
  assert.equal((await made.push('Spoilt', files('four\n'))).failure, null);
  assert.equal((await statesOf(service, 4)).parts, 'passed');
  assert.equal(await page(service), 'four\nlow\nran\n');
  await third.stop();

  for (const name of sharedIn(service))
    writeFileSync(join(service.state, 'shared-outputs', name), 'no archive at all');
  await anotherRunner(t, service, 'mole');
  assert.equal((await made.push('Broken', files('five\n'))).failure, null);
  assert.equal((await statesOf(service, 5)).parts, 'passed');
});

test('outputs are kept for runners only, up to their limit, and those longest unused go first', async (t) => {
  const service = await startTestService(t, {
    roles: ['edge'],
    environment: { VAQUERO_SHARED_OUTPUTS_MB: '4' },
  });
  const { token } = await anotherRunner(t, service, 'quay');
  const folder = join(service.state, 'shared-outputs');
  const digestOf = (text: string): string => createHash('sha256').update(text).digest('hex');
  const call = (method: string, digest: string, more: RequestInit = {}, secret = token) =>
    fetch(`${service.address}/role/outputs/${digest}`, {
      ...more,
      method,
      headers: { ...headersOfRole(secret), ...more.headers },
    });
  const wanted = async (digest: string, bytes: number): Promise<boolean> => {
    const response = await call('POST', `${digest}/wanted`, {
      body: JSON.stringify({ bytes }),
      headers: { 'content-type': 'application/json' },
    });
    return ((await response.json()) as { wanted: boolean }).wanted;
  };
  const [one, two, large] = [digestOf('one'), digestOf('two'), digestOf('large')];
  assert.equal(await wanted(one, 1000), true);
  assert.equal(await wanted(large, 1 << 21), false, 'over a quarter of the room');
  const megabyte = randomBytes((1 << 20) - 10);
  assert.equal((await call('PUT', one, { body: megabyte })).status, 204);
  assert.equal(await wanted(one, 1000), false, 'it is there');
  assert.deepEqual(Buffer.from(await (await call('GET', one)).arrayBuffer()), megabyte);
  assert.equal((await call('GET', two)).status, 404);
  assert.equal((await call('GET', '..%2finstallation-key')).status, 404);
  assert.equal((await call('PUT', large, { body: randomBytes(1 << 21) })).status, 413);
  assert.deepEqual(readdirSync(folder), [one], 'nothing of what was too large stays');
  for (const secret of ['nobody', service.operatorSecret, service.environment.VAQUERO_EDGE_TOKEN])
    assert.equal((await call('GET', one, {}, secret)).status, 401);

  // Four fit; the fifth drives out the one that nobody asked for longest.
  const names = [one, ...['b', 'c', 'd'].map(digestOf)];
  for (const name of names.slice(1)) await call('PUT', name, { body: megabyte });
  for (const [place, name] of names.entries()) {
    const at = new Date(1_790_000_000_000 + place * 1000);
    utimesSync(join(folder, name), at, at);
  }
  appendFileSync(join(folder, `${two}.cut-off`), 'half');
  utimesSync(join(folder, `${two}.cut-off`), 1_790_000_000, 1_790_000_000);
  await (await call('GET', one)).arrayBuffer();
  assert.ok(statSync(join(folder, one)).mtimeMs > 1_790_000_010_000, 'asking counts as use');
  await call('PUT', two, { body: megabyte });
  assert.deepEqual(
    readdirSync(folder).toSorted(),
    [one, two, ...names.slice(2)].toSorted(),
    'the one longest unused is gone, and what never came whole',
  );
});
