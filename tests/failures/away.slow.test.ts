import assert from 'node:assert/strict';
import { once } from 'node:events';
import { mkdirSync, readdirSync } from 'node:fs';
import { connect, createServer, type Socket } from 'node:net';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { auditRoutes, buildRoutes } from '@vaquero/contracts';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import { makeLog } from '@vaquero/service';
import { execa } from 'execa';
import { atEnd, temporaryFolder, uidsOfTests, until } from '../support/place.ts';
import { startTestService, type TestService } from '../support/service.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

/** A cable between a runner and the api that can be pulled. */
async function cable(t: TestContext, to: number) {
  const sockets = new Set<Socket>();
  let isPulled = false;
  const server = createServer((near) => {
    if (isPulled) {
      near.destroy();
      return;
    }
    const far = connect(to, '127.0.0.1');
    for (const [one, other] of [
      [near, far],
      [far, near],
    ] as const) {
      sockets.add(one);
      one.pipe(other);
      one.on('error', () => other.destroy()); // The cable was pulled.
      one.on('close', () => {
        sockets.delete(one);
        other.destroy();
      });
    }
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  atEnd(t, () => {
    server.close();
    for (const socket of sockets) socket.destroy();
  });
  return {
    address: `http://127.0.0.1:${typeof address === 'object' ? address?.port : 0}`,
    pull: () => {
      isPulled = true;
      for (const socket of sockets) socket.destroy();
    },
    mend: () => {
      isPulled = false;
    },
  };
}

async function runnerWith(
  t: TestContext,
  service: TestService,
  more: Readonly<Record<string, string>>,
): Promise<void> {
  const runner = await startRunner({
    config: readRunnerConfig({ ...service.environment, ...more }),
    log: makeLog('test', 'fatal'),
  });
  atEnd(t, () => runner.stop());
}

const show = (service: TestService, build: number) =>
  service.operator.call(buildRoutes.showBuildRoute, { params: { project: 'timetable', build } });
const inStep = (service: TestService, build: number) =>
  until(`build ${build} is in its step`, async () => {
    const seen = await show(service, build).catch(() => null); // The push is not noticed yet.
    return seen?.steps.some((step) => step.name === 'pages' && step.state === 'running') === true;
  });
const passedEntries = async (service: TestService): Promise<number> => {
  const { entries } = await service.operator.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
    query: { limit: 100 },
  });
  return entries.filter((entry) => entry.kind === 'build.passed').length;
};

test('a runner that loses the network for a moment ends its build as if nothing was', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const line = await cable(t, Number(new URL(service.address).port));
  await runnerWith(t, service, { VAQUERO_API: line.address });
  const made = await service.project('timetable');
  await made.copy.commit('One', {
    'vaquero.yaml': recipeOf(`echo before; sleep 2; echo behind; ${writesPage('one')}`),
  });
  await made.copy.push(made.remote);
  await inStep(service, 1);
  line.pull();
  // It ends while nobody can be told; the step needs no network.
  await until('the step has ended', async () => {
    const slots = join(service.state, 'slots');
    return readdirSync(slots).some(
      (slot) =>
        /^\d+$/.test(slot) &&
        readdirSync(join(slots, slot)).some((name) => existsOut(join(slots, slot, name))),
    );
  });
  line.mend();
  const build = await service.buildEnded('timetable', 1);
  assert.deepEqual([build.failure, build.attempts], [null, 1]);
  const { lines } = await service.operator.call(buildRoutes.logLinesRoute, {
    params: { project: 'timetable', build: 1 },
    query: { step: 'pages', limit: 100 },
  });
  assert.deepEqual(lines.map((one) => one.text).slice(-2), ['before', 'behind']);
  assert.equal(await passedEntries(service), 1);
});

function existsOut(folder: string): boolean {
  // Where a kept tree is written to, it lies among those; else in the build's own folder, or in a layer beside it.
  const kept = folder.endsWith('/sources') ? readdirSync(folder).map((name) => `${name}/out`) : [];
  return ['layer/written/out', 'tree/out', ...kept].some((path) => {
    try {
      return readdirSync(join(folder, path)).includes('index.html');
    } catch {
      // Not there yet.
      return false;
    }
  });
}

test('a runner that is away for longer than its lease changes nothing any more; the build ends once', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const line = await cable(t, Number(new URL(service.address).port));
  await runnerWith(t, service, { VAQUERO_API: line.address, VAQUERO_RUNNER_SLOTS: '1' });
  const made = await service.project('timetable');
  await made.copy.commit('One', {
    'vaquero.yaml': recipeOf(
      `if [ ! -e ~/.seen/once ]; then touch ~/.seen/once; sleep 300; fi; ${writesPage('one')}`,
    ).replace('    run: |', '    caches: ~/.seen\n    run: |'),
  });
  await made.copy.push(made.remote);
  await inStep(service, 1);
  line.pull();
  await until('the attempt is lost', async () => (await show(service, 1)).state === 'queued', {
    withinMs: 40_000,
  });
  line.mend();
  const build = await service.buildEnded('timetable', 1);
  assert.deepEqual([build.failure, build.attempts], [null, 2]);
  assert.equal(await passedEntries(service), 1);
});

test('a full disk ends the build with that reason, and the next one has room again', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const small = temporaryFolder(t);
  await execa('mount', ['-t', 'tmpfs', '-o', 'size=48m,mode=0711', 'tmpfs', small]);
  atEnd(t, () => execa('umount', ['--lazy', small]));
  await runnerWith(t, service, { VAQUERO_STATE: small, VAQUERO_STORE: 'elsewhere' });
  const made = await service.project('timetable');
  const build = await made.push('Too much', {
    'vaquero.yaml': recipeOf('mkdir -p out && head -c 200000000 /dev/zero > out/big.bin'),
  });
  assert.equal(build.state, 'failed');
  const told = JSON.stringify([build.reason, build.failure, build.tellingLine]);
  assert.equal(build.explanation?.cause, 'disk or quota full', told);
  assert.match(build.tellingLine?.text ?? '', /No space left on device/);
  const good = await made.push('Little', { 'vaquero.yaml': recipeOf(writesPage('small')) });
  assert.equal(good.failure, null);

  // A store that is full: what the build wrote fits, what is kept of it does not.
  const store = join(temporaryFolder(t), 'narrow');
  mkdirSync(join(store, 'store'), { recursive: true });
  await execa('chmod', ['711', store]);
  await execa('mount', ['-t', 'tmpfs', '-o', 'size=2m', 'tmpfs', join(store, 'store')]);
  atEnd(t, () => execa('umount', ['--lazy', join(store, 'store')]));
  const other = await startTestService(t, { roles: ['edge'] });
  await runnerWith(t, other, {
    VAQUERO_STATE: store,
    VAQUERO_STORE: 'elsewhere',
    VAQUERO_RUNNER_UIDS: uidsOfTests(),
  });
  const narrow = await other.project('timetable');
  const kept = await narrow.push('More than the store takes', {
    'vaquero.yaml': recipeOf(
      'mkdir out && echo x > out/index.html && head -c 6000000 /dev/urandom > out/big.bin',
    ),
  });
  assert.equal(kept.reason?.reason, 'store');
  assert.match(kept.failure?.why ?? '', /ENOSPC/);
});
