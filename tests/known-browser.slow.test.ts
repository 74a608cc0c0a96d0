import assert from 'node:assert/strict';
import test from 'node:test';
import { makeClient, peopleRoutes } from '@vaquero/contracts';
import { type Instant, later } from '@vaquero/core';
import { byPerson, makeToken } from '@vaquero/service';
import { addOperator } from './support/people.ts';
import { startTestService } from './support/service.ts';

test('a browser that somebody has signed in with is let through a lock of their name, for itself alone', async (t) => {
  // Time stands still: a lock that is there stays.
  let now = Date.now() as Instant;
  const service = await startTestService(t, { roles: ['edge'], clock: () => now });
  const id = await addOperator(service);
  await service.person('petra', null);
  const from = async (cookie: string, password = 'lune quay', name = 'tomas') => {
    const { host } = new URL(service.origin);
    const response = await fetch(`${service.address}/api/sign-in`, {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        origin: service.origin,
        'vaquero-request': 'console',
        host,
        cookie,
      },
      body: JSON.stringify({ name, password }),
    });
    const said = (await response.json()) as { code?: string };
    const known = response.headers.getSetCookie().find((one) => one.includes('-known='));
    return { code: said.code ?? response.status, known: known?.split(';')[0] ?? '' };
  };
  const { known } = await from('');
  const other = await from('');
  assert.match(known, /^__Host-vaquero-known=[\w-]{24}\.\d+\.[0-9a-f]{64}$/);
  assert.notEqual(known, other.known);
  for (let tried = 0; tried < 5; tried += 1) await from('', 'x');
  assert.equal((await from('')).code, 'too-many-tries');
  // Its own tries are counted, and lock that browser alone.
  assert.equal((await from(known)).code, 200);
  for (let tried = 0; tried < 5; tried += 1)
    assert.equal((await from(known, 'x')).code, 'wrong-password');
  assert.equal((await from(known)).code, 'too-many-tries');
  assert.equal((await from(other.known)).code, 200);
  // A mark that was made up, is too old, or is somebody else's counts like none.
  const [, mark = ''] = other.known.split('=');
  const [browser, at, word = ''] = mark.split('.');
  for (const forged of [
    `${browser}.${at}.${'0'.repeat(64)}`,
    `${browser}.${Number(at) + 1}.${word}`,
    `${browser}.${at}.${word}0`,
  ])
    assert.equal((await from(`__Host-vaquero-known=${forged}`)).code, 'too-many-tries', forged);
  for (let tried = 0; tried < 5; tried += 1) await from('', 'x', 'petra');
  assert.equal((await from(other.known, 'x', 'petra')).code, 'too-many-tries');
  now = later(now, 181 * 86_400_000);
  for (let tried = 0; tried < 5; tried += 1) await from('', 'x');
  assert.equal((await from(other.known)).code, 'too-many-tries');
  // Another password forgets every browser.
  now = later(now, 7_200_000);
  const last = await from('');
  const token = await makeToken(
    service.deps,
    { id },
    { name: 'all', kind: 'all', days: 1 },
    byPerson(id, 'test'),
  );
  const own = makeClient({
    address: service.address,
    headers: { authorization: `Bearer ${token.secret}` },
  });
  await own.call(peopleRoutes.changePasswordRoute, {
    body: { now: 'lune quay', next: 'the ebb begins at noon' },
  });
  for (let tried = 0; tried < 5; tried += 1) await from('', 'x');
  assert.equal((await from(last.known, 'the ebb begins at noon')).code, 'too-many-tries');
});
