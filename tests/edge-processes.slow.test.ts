import assert from 'node:assert/strict';
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import test, { type TestContext } from 'node:test';
import { visitRoutes } from '@vaquero/contracts';
import { until } from './support/place.ts';
import { askEdge, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const program = new URL('../dist/edge.mjs', import.meta.url).pathname;

/** The edge as it is started on a machine of two processors, beside a service whose store it shares. */
async function edgeOfTwo(t: TestContext, service: TestService) {
  const port = service.edgePort;
  const edge: ChildProcess = spawn(process.execPath, [program], {
    env: {
      ...process.env,
      ...service.environment,
      VAQUERO_EDGE_PROCESSES: '2',
      VAQUERO_LOG_LEVEL: 'warn',
    },
    stdio: 'inherit',
  });
  t.after(() => edge.kill('SIGKILL'));
  const ask = (path = '/') => askEdge(port, `staging.timetable.localhost:${port}`, path);
  const children = (): readonly number[] =>
    execFileSync('ps', ['-o', 'pid=', '--ppid', String(edge.pid)], { encoding: 'utf8' })
      .trim()
      .split(/\s+/)
      .map(Number);
  await until('it answers', () =>
    ask().then(
      (page) => page.status === 200,
      () => false,
    ),
  );
  return { edge, ask, children };
}

test('two processes answer with one table, count once, and one that is killed is made anew', async (t) => {
  const service = await startTestService(t, { roles: ['runner', 'edge'] });
  const { push } = await service.project('timetable');
  await push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.stopEdge();
  const { edge, ask, children } = await edgeOfTwo(t, service);
  await until('both are there', () => children().length === 2);

  // A move is confirmed once both answer with it: whoever asks afterwards gets it, by whichever of them.
  const two = await push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  assert.equal(two.state, 'passed', JSON.stringify(two.failure));
  const isConfirmed = async (build: number) => {
    const { serves } = await service.environmentOf('timetable', 'staging');
    return serves?.build === build && serves.confirmedAt !== null;
  };
  await until('the move is confirmed', () => isConfirmed(two.number));
  const pages = await Promise.all(Array.from({ length: 40 }, () => ask()));
  assert.deepEqual(
    pages
      .map(({ status, text }) => `${status} ${text.slice(0, 40)}`)
      .filter((one) => !one.includes('two')),
    [],
  );
  await ask('/nowhere');
  await until('all is counted', async () => {
    const { live } = await service.operator.call(visitRoutes.showVisitsRoute, {
      params: { project: 'timetable', environment: 'staging' },
    });
    assert.ok((live?.requests ?? 0) <= 41, 'counted twice');
    return live?.requests === 41 && live.missed === 1;
  });

  const [first = 0] = children();
  process.kill(first, 'SIGKILL');
  await until('there are two again', () => {
    const now = children();
    return now.length === 2 && !now.includes(first);
  });
  await until('it answers', () => ask().then((page) => page.status === 200));
  const three = await push('Three', { 'vaquero.yaml': recipeOf(writesPage('three')) });
  await until('the move is confirmed', () => isConfirmed(three.number));
  const after = await Promise.all(Array.from({ length: 40 }, () => ask()));
  assert.ok(after.every((page) => page.text.includes('three')));

  // Ended, it leaves nothing behind; killed, its processes go with it.
  const kept = children();
  edge.kill('SIGTERM');
  assert.deepEqual(await once(edge, 'exit'), [0, null]);
  const isThere = (pid: number): boolean => {
    try {
      return process.kill(pid, 0);
    } catch {
      return false; // ESRCH: it is no more.
    }
  };
  assert.ok(kept.every((pid) => !isThere(pid)));
  const again = await edgeOfTwo(t, service);
  const left = again.children();
  again.edge.kill('SIGKILL');
  await until('they are gone', () => left.every((pid) => !isThere(pid)));
});
