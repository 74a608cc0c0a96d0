import assert from 'node:assert/strict';
import { spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import test from 'node:test';
import { makeClient, peopleRoutes } from '@vaquero/contracts';
import { readApiConfig } from '@vaquero/service';
import { execa } from 'execa';
import { freePort, temporaryFolder, until } from './support/place.ts';
import { serves, startInstallation } from './support/processes.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const bundle = new URL('../dist/vaquero-service.mjs', import.meta.url).pathname;

test('the one command starts all, names the first operator, refuses a second beside it, starts again after kill -9, and ends cleanly', async (t) => {
  const state = temporaryFolder(t);
  const [port, edgePort, healthPort] = [await freePort(), await freePort(), await freePort()];
  const environment = {
    PATH: process.env.PATH ?? '',
    VAQUERO_STATE: state,
    VAQUERO_PORT: String(port),
    VAQUERO_EDGE_PORT: String(edgePort),
    VAQUERO_HEALTH_PORT: String(healthPort),
    VAQUERO_RUNNER_UIDS: '189000-189099',
    VAQUERO_FIRST_OPERATOR: 'tomas:lune quay at dawn',
  };
  let said = '';
  const start = () => {
    const service = spawn(process.execPath, [bundle], {
      env: environment,
      stdio: ['ignore', 'pipe', 'inherit'],
      // A group of its own, as a terminal gives it: Ctrl-C goes to all of it.
      detached: true,
    });
    t.after(() => service.kill('SIGKILL'));
    service.stdout.on('data', (bytes: Buffer) => {
      said += bytes.toString();
    });
    const ended = new Promise<number | null>((resolve) => service.once('exit', resolve));
    return { service, ended };
  };
  const address = `http://127.0.0.1:${port}`;
  const answers = (where: string) =>
    fetch(where).then(
      (response) => response.ok,
      () => false,
    );
  const isUp = () =>
    until('the api is up', () => answers(`${address}/health`), { seen: () => said });
  const killed = start();
  await isUp();
  const signed = await makeClient({ address }).call(peopleRoutes.signInForTokenRoute, {
    body: { name: 'tomas', password: 'lune quay at dawn', token: 'x' },
  });
  assert.match(signed.secret, /^vaq_/);
  assert.equal(
    (await fetch(`${address}/`)).headers.get('content-type'),
    'text/html; charset=utf-8',
  );

  const second = await execa(process.execPath, [bundle], {
    env: { ...environment, VAQUERO_PORT: String(await freePort()) },
    extendEnv: false,
    reject: false,
  });
  assert.equal(second.exitCode, 1);
  assert.match(second.stdout, /A service is running already in/);

  const rolesAreUp = () =>
    until('every role is up', () => answers(`http://127.0.0.1:${healthPort}/`));
  await rolesAreUp();
  killed.service.kill('SIGKILL');
  for (const each of [port, healthPort])
    await until('the roles have ended with it', async () => {
      return !(await answers(`http://127.0.0.1:${each}/health`));
    });

  const { service, ended } = start();
  await isUp();
  await rolesAreUp();
  const before = said.length;
  process.kill(-(service.pid ?? assert.fail()), 'SIGINT');
  assert.equal(await ended, 0);
  assert.doesNotMatch(said.slice(before), /is started again/);
  await assert.rejects(fetch(`${address}/health`));
  // No password stands in its log.
  assert.doesNotMatch(said, /lune quay at dawn/);
});

test('a port in use is named, with the variable that changes it', async (t) => {
  const listener = createServer();
  await new Promise<void>((resolve) => listener.listen(0, '127.0.0.1', resolve));
  t.after(() => listener.close());
  const address = listener.address();
  const port = typeof address === 'object' && address !== null ? address.port : 0;
  const end = await execa(process.execPath, [bundle], {
    env: {
      PATH: process.env.PATH ?? '',
      VAQUERO_STATE: join(temporaryFolder(t), 's'),
      VAQUERO_PORT: String(port),
    },
    extendEnv: false,
    reject: false,
  });
  assert.equal(end.exitCode, 1);
  assert.match(
    end.stdout,
    new RegExp(
      `Port ${port} is in use by another program\\. Next: stop that program, or choose another port: VAQUERO_PORT=`,
    ),
  );
});

test('every fault of the configuration is told at once, and shared sites are refused', () => {
  const good = {
    VAQUERO_STATE: '/s',
    VAQUERO_DATABASE_URL: 'mariadb://a:b@127.0.0.1/c',
    VAQUERO_RUNNER_TOKEN: 'x'.repeat(20),
    VAQUERO_EDGE_TOKEN: 'x'.repeat(20),
  };
  assert.equal(readApiConfig(good).origin, 'http://localhost:4600');
  assert.throws(
    () => readApiConfig({ VAQUERO_PORT: '99999' }),
    /VAQUERO_STATE.*VAQUERO_DATABASE_URL.*VAQUERO_PORT.*VAQUERO_RUNNER_TOKEN/s,
  );
  const domains = (origin: string, base: string, artifacts: string) =>
    readApiConfig({
      ...good,
      VAQUERO_ORIGIN: origin,
      VAQUERO_BASE: base,
      VAQUERO_ARTIFACTS_BASE: artifacts,
    });
  assert.equal(
    domains('https://console.kettle.example', 'sites.example', 'bytes.example').base,
    'sites.example',
  );
  for (const [origin, base, artifacts] of [
    ['https://console.kettle.example', 'sites.kettle.example', 'bytes.example'],
    ['https://console.kettle.example', 'sites.example', 'artifacts.sites.example'],
    ['https://a.kettle.co.uk', 'b.kettle.co.uk', 'c.example'],
  ] as const) {
    assert.throws(() => domains(origin, base, artifacts), /must be three different sites/);
  }
});

test('what decides comes first in line for the processors, then what serves; long work steps back', {
  skip: process.getuid?.() === 0 ? false : 'only root gives precedence',
}, async (t) => {
  const here = await startInstallation(t, { ownServer: true });
  const { api, edge, runner } = here.supervision.pids();
  assert.deepEqual(
    [here.supervision.mariadbPid(), api, edge, runner].map((pid) => nicenessOf(`/proc/${pid}`)),
    [-10, -10, -5, 0],
  );
  await here.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.ok((await here.copy.push(here.remote)).ok);
  await serves(here.client, 'staging', 1);
  // The threads that read the files of the first inspection, among those of the api.
  const threads = readdirSync(`/proc/${api}/task`);
  const places = threads.map((thread) => nicenessOf(`/proc/${api}/task/${thread}`));
  const reading = places.filter((place) => place === 0).length;
  assert.ok(reading === 1 || reading === 2, `${reading} threads step back`);
  // One that is started again stands where the first stood.
  await here.kill('edge');
  assert.equal(nicenessOf(`/proc/${here.supervision.pids().edge}`), -5);
});

/** The niceness of a process or thread (proc(5), field 19 of its stat). */
function nicenessOf(path: string): number {
  const stat = readFileSync(`${path}/stat`, 'utf8');
  return Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[16]);
}
