import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, headersOfRole, runnerRoutes } from '@vaquero/contracts';
import { anotherRunner } from './support/another-runner.ts';
import { changeMap } from './support/maps.ts';
import { temporaryFolder, until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';

const endless = 'steps: {pages: {run: sleep 300}}\nserve: {site: out}\n';
const short =
  'steps: {pages: {run: mkdir out && echo tide > out/index.html}}\nserve: {site: out}\n';

const show = (service: TestService, build: number) =>
  service.operator.call(buildRoutes.showBuildRoute, { params: { project: 'timetable', build } });

const running = (service: TestService, build: number) =>
  until(`build ${build} runs`, async () => {
    const seen = await show(service, build).catch(() => null); // The push is not noticed yet.
    return (
      seen?.steps.some((step) => step.name === 'pages' && step.state === 'running') === true && seen
    );
  });

test('a newer commit ends the build of an older one where the environment says so, and nowhere else', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const project = 'timetable';
  const stopping = (environment: string, rule: string) =>
    changeMap(service, project, (text) =>
      text.replace(`${environment}: {${rule}`, `${environment}: {overtaken: stop, ${rule}`),
    );
  const never = await refusalOf(stopping('production', 'accepts'));
  assert.deepEqual([never.code, /nothing to stop/.test(never.detail)], ['map-invalid', true]);

  // Left as it is, the older build goes on.
  await made.copy.commit('Endless', { 'vaquero.yaml': endless });
  await made.copy.push(made.remote);
  await running(service, 1);
  await made.copy.commit('Short', { 'vaquero.yaml': short });
  await made.copy.push(made.remote);
  assert.equal((await service.buildEnded(project, 2)).failure, null);
  assert.equal((await show(service, 1)).state, 'running');
  await service.operator.call(buildRoutes.cancelBuildRoute, { params: { project, build: 1 } });

  assert.equal((await stopping('staging', 'follows')).version, 2);
  assert.equal((await service.environmentOf(project, 'staging')).overtaken, 'stop');
  await made.copy.commit('Endless again', { 'vaquero.yaml': endless, 'a.txt': 'a' });
  await made.copy.push(made.remote);
  await running(service, 3);
  // One that a person asked for is that person's; it is left alone.
  await service.operator.call(buildRoutes.buildAgainRoute, {
    params: { project },
    body: { build: 3, earlier: 'left' },
  });
  await running(service, 4);
  await made.copy.commit('Newer', { 'vaquero.yaml': short, 'a.txt': 'b' });
  await made.copy.push(made.remote);
  const older = await until('the older one ends', async () => {
    const seen = await show(service, 3);
    return seen.endedAt !== null && seen;
  });
  assert.deepEqual([older.state, older.overtakenBy], ['cancelled', 5]);
  assert.equal((await show(service, 4)).state, 'running');
  const newer = await service.buildEnded(project, 5);
  assert.equal(newer.failure, null);
  await until(
    'staging serves it',
    async () => (await service.environmentOf(project, 'staging')).serves?.build === 5,
  );
});

test('a build waits for a runner that bears its labels; one on another machine brings what it stores', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.copy.commit('Labelled', {
    'vaquero.yaml': `runner: large\n${short}`,
    'a.css': 'a{}',
  });
  await made.copy.push(made.remote);
  const waiting = await until('it waits', async () => {
    const seen = await show(service, 1).catch(() => null); // The push is not noticed yet.
    return seen?.place != null && seen;
  });
  assert.deepEqual(waiting.place, { ahead: 0, startsAt: null, lacks: ['large'] });

  const other = await anotherRunner(t, service, 'quay', { VAQUERO_RUNNER_LABELS: 'large, quiet' });
  const built = await service.buildEnded('timetable', 1);
  assert.equal(built.failure, null);
  await until('staging serves it', async () => {
    const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
    return page.text === 'tide\n';
  });
  const { runners } = await service.operator.call(runnerRoutes.listRunnersRoute, {});
  const seen = runners.find((runner) => runner.name === 'quay');
  assert.deepEqual(
    [seen?.labels, seen?.present, seen?.draining],
    [['large', 'quiet'], true, false],
  );
  assert.ok(existsSync(join(other.state, 'store', 'sha256')));

  // What the service has been told already is not brought again, and what is new is.
  const again = await made.push('Another page', {
    'vaquero.yaml': `runner: large\n${short.replace('tide', 'ebb')}`,
  });
  assert.equal(again.failure, null);
  assert.equal(
    (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text,
    'ebb\n',
  );

  await other.stop();
  await service.operator.call(runnerRoutes.dropRunnerRoute, { params: { runner: 'quay' } });
  const left = await service.operator.call(runnerRoutes.listRunnersRoute);
  assert.ok(!left.runners.some((runner) => runner.name === 'quay'));
  const claims = await fetch(`${service.address}/role/claims`, {
    method: 'POST',
    headers: { ...headersOfRole(other.token), 'content-type': 'application/json' },
    body: JSON.stringify({
      instance: '019aabce-0000-7000-8000-000000000001',
      waitMs: 0,
      tools: {},
      slots: 1,
      labels: [],
    }),
  });
  assert.equal(claims.status, 401);
});

test('files come to the store only under their own digest, within an upload that is open', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const made = await service.project('timetable');
  await made.copy.commit('One', { 'vaquero.yaml': short });
  await made.copy.push(made.remote);
  const machine = headersOfRole(service.environment.VAQUERO_RUNNER_TOKEN ?? '');
  const given = await until('it is given', async () => {
    const response = await fetch(`${service.address}/role/claims`, {
      method: 'POST',
      headers: { ...machine, 'content-type': 'application/json' },
      body: JSON.stringify({
        instance: '019aabce-0000-7000-8000-000000000001',
        waitMs: 500,
        tools: {},
        slots: 1,
        labels: [],
      }),
    });
    return (await response.json()) as { attempt: string; credential: string } | null;
  });
  const own = headersOfRole(given.credential);
  const opened = await fetch(`${service.address}/role/attempts/${given.attempt}/uploads`, {
    method: 'POST',
    headers: own,
  });
  const { upload } = (await opened.json()) as { upload: string };
  const put = (session: string, digest: string, headers: Record<string, string>) =>
    fetch(`${service.address}/role/attempts/${given.attempt}/uploads/${session}/blobs/${digest}`, {
      method: 'PUT',
      headers,
      body: 'tide',
    }).then((response) => response.status);
  const digestOf = (text: string) => createHash('sha256').update(text).digest('hex');
  const [tide, ebb] = [digestOf('tide'), digestOf('ebb')];
  assert.equal(await put(upload, ebb, own), 400);
  assert.equal(await put(upload, 'no-digest', own), 404);
  assert.equal(await put('another', tide, own), 404);
  assert.equal(await put(given.attempt, tide, own), 409);
  assert.equal(await put(upload, tide, machine), 409);
  assert.equal(await put(upload, tide, own), 204);
  const folder = join(service.state, 'store', 'sha256', tide.slice(0, 2));
  assert.deepEqual(readdirSync(folder), [tide]);
  assert.equal(readFileSync(join(folder, tide), 'utf8'), 'tide');
  assert.deepEqual(readdirSync(join(service.state, 'store', 'sha256', ebb.slice(0, 2))), []);
});

test('a draining runner finishes what it builds and is given nothing more', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const gate = `steps: {pages: {run: "mkdir -p out && echo x > out/index.html && while [ ! -e stop ] && [ $((n=n+1)) -lt 40 ]; do sleep 0.1; done"}}\nserve: {site: out}\n`;
  await made.copy.commit('Slow', { 'vaquero.yaml': gate });
  await made.copy.push(made.remote);
  await running(service, 1);
  const params = { runner: 'runner-1' };
  const drain = (draining: boolean) =>
    service.operator.call(runnerRoutes.setRunnerRoute, { params, body: { draining } });
  const drained = await drain(true);
  assert.deepEqual([drained.draining, drained.building], [true, 1]);
  const dropping = await refusalOf(service.operator.call(runnerRoutes.dropRunnerRoute, { params }));
  assert.equal(dropping.code, 'runner-builds');
  await made.copy.commit('Next', { 'vaquero.yaml': short });
  await made.copy.push(made.remote);
  assert.equal((await service.buildEnded('timetable', 1)).failure, null);
  const waiting = await show(service, 2);
  assert.equal(waiting.state, 'queued');
  await drain(false);
  assert.equal((await service.buildEnded('timetable', 2)).failure, null);
});

test('a runner that is told to stop finishes what it builds while it has time for that', async (t) => {
  const service = await startTestService(t, {
    environment: { VAQUERO_RUNNER_DRAIN_SECONDS: '30' },
  });
  const made = await service.project('timetable');
  await made.copy.commit('Slow', {
    'vaquero.yaml':
      'steps: {pages: {run: "mkdir out && sleep 1.5 && echo x > out/index.html"}}\nserve: {site: out}\n',
  });
  await made.copy.push(made.remote);
  await running(service, 1);
  await service.stopRunner();
  const build = await show(service, 1);
  assert.deepEqual([build.state, build.attempts], ['passed', 1]);
});

test('what is to come is foretold from the builds before: each step, the end, and the beginning of what waits', async (t) => {
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_SLOTS: '1' } });
  const made = await service.project('timetable');
  const recipe = (word: string) =>
    `steps:\n  words: {run: sleep 0.4}\n  pages: {after: words, run: "mkdir out && sleep 0.6 && echo ${word} > out/index.html"}\nserve: {site: out}\n`;
  assert.equal((await made.push('First', { 'vaquero.yaml': recipe('a') })).failure, null);
  await made.copy.commit('Second', { 'vaquero.yaml': recipe('b') });
  await made.copy.push(made.remote);
  const begun = await until('it has begun', async () => {
    const seen = await show(service, 2).catch(() => null); // The push is not noticed yet.
    return seen?.steps.some((step) => step.name === 'words' && step.state === 'running') && seen;
  });
  await made.copy.commit('Third', { 'vaquero.yaml': recipe('c') });
  await made.copy.push(made.remote);
  const expected = new Map(begun.steps.map((step) => [step.name, step.expected]));
  assert.deepEqual([...expected.keys()], ['fetch', 'words', 'pages', 'store', 'inspect', 'look']);
  const pages = expected.get('pages');
  const words = expected.get('words');
  assert.ok(pages != null && words != null);
  assert.equal(pages.startsAt, words.endsAt);
  // The look goes beside the inspection, not behind it.
  assert.equal(expected.get('inspect')?.startsAt, expected.get('store')?.endsAt);
  assert.equal(expected.get('look')?.startsAt, expected.get('store')?.endsAt);
  const lasts = pages.endsAt - pages.startsAt;
  assert.ok(lasts >= 600 && lasts < 5_000, `${lasts} ms`);
  assert.equal(begun.steps.find((step) => step.name === 'pages')?.state, 'waiting');
  const waiting = await until('the third waits', async () => {
    const seen = await show(service, 3).catch(() => null); // The push is not noticed yet.
    return seen?.place != null && seen;
  });
  assert.equal(waiting.place?.ahead, 0);
  const startsAt = waiting.place?.startsAt ?? 0;
  assert.ok(startsAt >= waiting.queuedAt && startsAt < waiting.queuedAt + 10_000);
  assert.equal((await service.buildEnded('timetable', 3)).failure, null);
});

test('where a machine shows no layers, trees are unpacked whole and every kind of step finds its own', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const made = await service.project('timetable');
  // A comma parts the mount's own options, so below such a folder nothing is layered.
  const state = join(temporaryFolder(t), 'no,layers');
  mkdirSync(state, { mode: 0o711 });
  await anotherRunner(t, service, 'quay', { VAQUERO_STATE: state, VAQUERO_RUNNER_SLOTS: '1' });
  const recipe = `steps:
  open: {run: echo changed > page.txt && echo open > open.txt}
  words: {run: cat page.txt > words/out.txt, reads: page.txt, writes: words, after: open}
  pages: {after: words, run: mkdir -p out && cat page.txt open.txt words/out.txt > out/index.html}
serve: {site: out}
`;
  const served = async (text: string): Promise<unknown> =>
    until(
      `${text} is served`,
      async () =>
        (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text === text,
    );
  const first = await made.push('Mixed', { 'vaquero.yaml': recipe, 'page.txt': 'committed\n' });
  assert.equal(first.failure, null);
  await served('changed\nopen\ncommitted\n');
  const second = await made.push('Other words', { 'page.txt': 'other\n' });
  assert.equal(second.failure, null);
  await served('changed\nopen\nother\n');
  const plain = await made.push('Plain pages', {
    'vaquero.yaml': null,
    'page.txt': null,
    'index.html': 'plain',
  });
  assert.equal(plain.failure, null);
  await served('plain');
});
