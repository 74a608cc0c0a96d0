import assert from 'node:assert/strict';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { makeClient, memberRoutes, peopleRoutes } from '@vaquero/contracts';
import { makeLog, readApiConfig, startApi } from '@vaquero/service';
import { atEnd, freePort, ownDatabase, temporaryFolder } from './support/place.ts';
import { refusalOf } from './support/service.ts';

const migrationsDirectory = new URL('../packages/service/migrations', import.meta.url).pathname;

test('an installation that knows nobody makes a link, once: whoever has it becomes the operator', async (t) => {
  const [url, state, port] = [
    await ownDatabase({ empty: true }),
    temporaryFolder(t),
    await freePort(),
  ];
  const start = async () => {
    const api = await startApi({
      config: readApiConfig({
        VAQUERO_STATE: state,
        VAQUERO_DATABASE_URL: url,
        VAQUERO_PORT: String(port),
        VAQUERO_RUNNER_TOKEN: 'runner-token-of-the-tests',
        VAQUERO_EDGE_TOKEN: 'edge-token-of-the-tests-',
        VAQUERO_FIRST_OPERATOR: 'petra',
      }),
      log: makeLog('test', 'fatal'),
      migrationsDirectory,
    });
    let isOver = false;
    const stop = async () => {
      if (!isOver) await api.stop();
      isOver = true;
    };
    atEnd(t, stop);
    return stop;
  };
  const path = join(state, 'first-operator');
  const first = await start();
  const link = readFileSync(path, 'utf8').trim();
  assert.equal(statSync(path).mode & 0o777, 0o600);
  assert.match(link, /\/join\?name=petra#[\w-]{43}$/);
  // Started again before anybody came: the same link holds.
  await first();
  const second = await start();
  assert.equal(readFileSync(path, 'utf8').trim(), link);

  // As the console calls it.
  const client = makeClient({
    address: `http://127.0.0.1:${port}`,
    headers: { origin: `http://localhost:${port}`, 'vaquero-request': 'console' },
  });
  const key = link.split('#')[1] ?? '';
  const shown = await client.call(memberRoutes.showInvitationRoute, { body: { key } });
  assert.deepEqual([shown.by, shown.role, shown.project], ['Vaquero', 'operator', null]);
  const join_ = (name: string) =>
    client.call(memberRoutes.joinRoute, {
      body: { key, name, shownAs: name, password: 'orrin sound at six' },
    });
  const both = await Promise.allSettled([join_('petra'), join_('mallory')]);
  assert.equal(both.filter(({ status }) => status === 'fulfilled').length, 1, 'it works once');
  assert.equal((await refusalOf(join_('later'))).code, 'invitation-over');
  const name = both[0]?.status === 'fulfilled' ? 'petra' : 'mallory';
  const { secret } = await client.call(peopleRoutes.signInForTokenRoute, {
    body: { name, password: 'orrin sound at six', token: 'x' },
  });
  const headers = { authorization: `Bearer ${secret}` };
  const me = await makeClient({ address: `http://127.0.0.1:${port}`, headers }).call(
    peopleRoutes.meRoute,
  );
  assert.deepEqual(me.grants, [{ project: null, role: 'operator', group: null }]);

  // From then on there is no such link, nor a file that held it.
  await second();
  await start();
  assert.equal(existsSync(path), false);
});
