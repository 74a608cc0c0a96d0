import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, renameSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import test from 'node:test';
import { headersOfRole, storeRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { sweepStore } from '@vaquero/service';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const digestOf = (text: string): string => createHash('sha256').update(text).digest('hex');
const pathOf = (service: TestService, digest: string): string =>
  join(service.state, 'store/sha256', digest.slice(0, 2), digest);
/** Bytes in the store that no artifact holds, as a build leaves them whose artifact came to nothing. */
const leave = (service: TestService, text: string): string => {
  const path = pathOf(service, digestOf(text));
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
  return digestOf(text);
};
const isKept = (service: TestService, digest: string): boolean =>
  existsSync(pathOf(service, digest));
const dayMs = 86_400_000;

test('a sweep puts aside what no artifact holds and removes it two days later; what is served stays', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const nobodys = leave(service, 'nobody holds this');
  const { aside } = await service.operator.call(storeRoutes.sweepRoute, {});
  assert.equal(aside, 0, 'what is younger than an hour may belong to a build that has not said so');
  assert.ok(isKept(service, nobodys));

  const swept = await sweepStore(service.deps, -1000);
  assert.deepEqual(
    { ...swept, asideBytes: swept.asideBytes > 0 },
    { aside: 1, asideBytes: true, removed: 0, putBack: false },
  );
  assert.equal(isKept(service, nobodys), false);
  assert.ok(isKept(service, build.artifact?.digest ?? ''));
  assert.equal((await service.page(`staging.timetable.localhost:${service.edgePort}`)).status, 200);

  const later = (days: number) => ({
    ...service.deps,
    clock: () => (Date.now() + days * dayMs) as Instant,
  });
  assert.equal((await sweepStore(later(1))).removed, 0);
  assert.equal((await sweepStore(later(2))).removed, 1);
  assert.deepEqual(readdirSync(join(service.state, 'store/aside')), []);
  assert.equal((await service.page(`staging.timetable.localhost:${service.edgePort}`)).status, 200);
});

test('what was put aside comes back when a build has made the same bytes', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const page = '<h1>one</h1>';
  const first = await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.ok(isKept(service, digestOf(page)), 'the page has the bytes that the test thinks');
  // The newest output is another: of that one nothing is looked at again.
  assert.equal(
    (await made.push('Between', { 'vaquero.yaml': recipeOf(writesPage('two')) })).state,
    'passed',
  );
  // As if a sweep had moved what the first alone holds.
  const aside = join(service.state, 'store/aside/2026-01-01');
  mkdirSync(aside, { recursive: true });
  renameSync(pathOf(service, digestOf(page)), join(aside, digestOf(page)));
  const second = await made.push('Two', {
    'vaquero.yaml': recipeOf(`${writesPage('one')}; echo more > out/more.html`),
  });
  assert.equal(second.state, 'passed');
  assert.notEqual(second.artifact?.digest, first.artifact?.digest);
  assert.ok(isKept(service, digestOf(page)));
});

test('while a build stores its output a sweep takes nothing away', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const made = await service.project('timetable');
  await made.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.push(made.remote);
  const nobodys = leave(service, 'nobody holds this yet');
  const claimed = await until('the build can be claimed', async () => {
    const response = await fetch(`${service.address}/role/claims`, {
      method: 'POST',
      headers: {
        ...headersOfRole(service.environment.VAQUERO_RUNNER_TOKEN ?? ''),
        'content-type': 'application/json',
      },
      body: JSON.stringify({
        instance: '019aabce-0000-7000-8000-000000000001',
        waitMs: 1000,
        tools: {},
        slots: 1,
        labels: [],
      }),
    });
    return (await response.json()) as { attempt: string; credential: string } | null;
  });
  const opened = await fetch(`${service.address}/role/attempts/${claimed?.attempt}/uploads`, {
    method: 'POST',
    headers: headersOfRole(claimed?.credential ?? ''),
  });
  assert.equal(opened.status, 200);
  assert.deepEqual(await sweepStore(service.deps, -1000), {
    aside: 0,
    asideBytes: 0,
    removed: 0,
    putBack: true,
  });
  assert.ok(isKept(service, nobodys));
});

test('only the operator sweeps', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project('timetable');
  const wren = await service.person('wren', 'maintainer', 'timetable');
  assert.equal((await refusalOf(wren.client.call(storeRoutes.sweepRoute, {}))).code, 'not-allowed');
});
