import assert from 'node:assert/strict';
import { request } from 'node:http';
import test from 'node:test';
import { gzipSync } from 'node:zlib';
import { headersOfRole, peopleRoutes } from '@vaquero/contracts';
import { later } from '@vaquero/core';
import { addPerson, sweepTries } from '@vaquero/service';
import { sql } from 'drizzle-orm';
import mysql from 'mysql2/promise';
import { addOperator, tomas } from './support/people.ts';
import { startTestService } from './support/service.ts';

test('what is called without a right is not read, and what is secret is kept nowhere', async (t) => {
  const service = await startTestService(t, {
    roles: [],
    environment: { VAQUERO_TRUSTED_PROXIES: '127.0.0.0/8' },
  });
  await service.project('timetable');
  const { address, operatorSecret } = service;
  const database = await mysql.createConnection(
    (service.environment.VAQUERO_DATABASE_URL ?? '').replace('mariadb:', 'mysql:'),
  );
  t.after(() => database.end());

  await t.test(
    'a bomb for a body is never inflated, whoever sends it to whatever route',
    async () => {
      const bomb = gzipSync(
        Buffer.concat([Buffer.from('"'), Buffer.alloc(64 << 20, 'x'), Buffer.from('"')]),
        { level: 9 },
      );
      const before = process.memoryUsage().rss;
      const began = performance.now();
      const send = (path: string, headers: Record<string, string>) =>
        fetch(`${address}${path}`, {
          method: 'POST',
          headers: { 'content-type': 'application/json', 'content-encoding': 'gzip', ...headers },
          body: new Uint8Array(bomb),
        });
      const paths = [
        '/api/sign-in',
        '/api/projects',
        '/api/projects/timetable/recipe',
        '/role/claims',
        '/role/beats',
        '/nowhere',
        '/api/health',
      ];
      const answers = await Promise.all(paths.map((path) => send(path, {})));
      assert.deepEqual(
        answers.map(({ status }) => status),
        [400, 401, 404, 401, 401, 404, 404],
      );
      const known = { authorization: `Bearer ${operatorSecret}` };
      assert.equal((await send('/api/projects', known)).status, 400);
      assert.equal(
        (await send('/role/claims', headersOfRole(service.environment.VAQUERO_RUNNER_TOKEN ?? '')))
          .status,
        400,
      );
      assert.ok(performance.now() - began < 5000);
      assert.ok(process.memoryUsage().rss - before < 150 << 20);
    },
  );

  await t.test(
    'who has no name is refused before a byte of the body has come; who has one may send what people send',
    async () => {
      const ask = (headers: Record<string, string>, body: string | null) =>
        new Promise<number>((resolve, reject) => {
          const asking = request(
            `${address}/api/projects`,
            { method: 'POST', headers: { 'content-type': 'application/json', ...headers } },
            (res) => {
              res.resume();
              resolve(res.statusCode ?? 0);
              asking.destroy();
            },
          );
          asking.on('error', reject);
          if (body === null) asking.flushHeaders();
          else asking.end(body);
        });
      assert.equal(await ask({ 'content-length': '1000000' }, null), 401);
      const large = JSON.stringify({ name: 'x', more: 'x'.repeat(110 << 10) });
      assert.equal(await ask({ authorization: `Bearer ${operatorSecret}` }, large), 413);
      assert.equal(await ask({}, JSON.stringify({ name: 'x'.repeat(30 << 10) })), 401);
    },
  );

  await t.test(
    'a secret that is shown once is kept nowhere, and the same call again is told so',
    async () => {
      const call = async (path: string, body: unknown, key: string) =>
        fetch(`${address}${path}`, {
          method: 'POST',
          headers: {
            authorization: `Bearer ${operatorSecret}`,
            'content-type': 'application/json',
            'idempotency-key': key,
          },
          body: JSON.stringify(body),
        });
      for (const [path, body] of [
        ['/api/tokens', { name: 'laptop' }],
        ['/api/runners', { name: 'shed' }],
        ['/api/edges', { name: 'quay' }],
      ] as const) {
        const first = await call(path, body, `key-${path}`);
        const text = await first.text();
        assert.equal(first.status, 201, text);
        const { secret, token } = JSON.parse(text) as { secret?: string; token?: string };
        const shown = secret ?? token ?? '';
        assert.ok(shown.length > 20);
        const [rows] = await database.query('SELECT * FROM keyed_calls WHERE `key` = ?', [
          `key-${path}`,
        ]);
        assert.equal((rows as unknown[]).length, 1);
        assert.ok(!JSON.stringify(rows).includes(shown));
        const again = await call(path, body, `key-${path}`);
        assert.deepEqual(
          [again.status, ((await again.json()) as { code: string }).code],
          [409, 'shown-once'],
        );
      }
    },
  );

  await t.test(
    'a token makes none that outlives it, and takes along those that it made',
    async () => {
      const wren = await service.person('wren', 'builder', 'timetable');
      const make = async (secret: string, days: number) => {
        const res = await fetch(`${address}/api/tokens`, {
          method: 'POST',
          headers: { authorization: `Bearer ${secret}`, 'content-type': 'application/json' },
          body: JSON.stringify({ name: 'more', days }),
        });
        return (await res.json()) as { id: string; secret: string; expiresAt: number };
      };
      const me = async (secret: string) =>
        (await fetch(`${address}/api/me`, { headers: { authorization: `Bearer ${secret}` } }))
          .status;
      const child = await make(wren.secret, 3);
      const grandchild = await make(child.secret, 366);
      assert.equal(grandchild.expiresAt, child.expiresAt);
      const other = await make(wren.secret, 1);
      const stream = await fetch(`${address}/api/events?project=timetable`, {
        headers: { authorization: `Bearer ${grandchild.secret}` },
      });
      const heard = stream.text().then(
        () => 'ended',
        () => 'cut',
      );
      await wren.client.call(peopleRoutes.revokeTokenRoute, { params: { token: child.id } });
      assert.equal(await heard, 'cut');
      assert.deepEqual(
        [await me(child.secret), await me(grandchild.secret), await me(other.secret)],
        [401, 401, 200],
      );
    },
  );

  await t.test(
    'guesses count before they are checked, lock nobody else out, and a right one is let in',
    async () => {
      await addPerson(service.deps, {
        name: 'mona',
        shownAs: 'Mona',
        password: 'a right password',
        role: null,
      });
      const guess = async (password: string, from: string) =>
        (
          await fetch(`${address}/api/sign-in/token`, {
            method: 'POST',
            headers: { 'content-type': 'application/json', 'x-forwarded-for': from },
            body: JSON.stringify({ name: 'mona', password, token: 't' }),
          })
        ).status;
      const many = await Promise.all(
        Array.from({ length: 40 }, (_, n) => guess(`wrong ${n}`, '203.0.113.7')),
      );
      assert.equal(many.filter((status) => status === 401).length, 5);
      assert.equal(many.filter((status) => status === 429).length, 35);
      // However long the forty took: as if the last of them were yet to come.
      await service.deps.db.execute(sql`UPDATE sign_in_tries SET last_at = last_at + 600000`);
      assert.equal(await guess('a right password', '203.0.113.7'), 429);
      await service.deps.db.execute(sql`UPDATE sign_in_tries SET last_at = last_at - 600000`);
      // The same person from home, and somebody who says to come from there by a proxy that is not believed twice.
      assert.equal(await guess('a right password', '198.51.100.9'), 200);
      assert.equal(await guess('wrong', '198.51.100.9'), 401);
      assert.equal(await guess('a right password', '203.0.113.7, 198.51.100.9'), 200);
      // Who has an IPv6 address has all of its network.
      const sixth = await Promise.all(
        Array.from({ length: 12 }, (_, n) => guess(`wrong ${n}`, `2001:db8:7::${n}`)),
      );
      assert.equal(sixth.filter((status) => status === 401).length, 5);
      assert.equal(await guess('a right password', '2001:db8:8::1'), 200);
      // An hour later what was tried counts for nothing, and is kept no longer.
      const tries = async () => {
        const [[row]] = (await service.deps.db.execute(
          sql`SELECT COUNT(*) AS many FROM sign_in_tries`,
        )) as unknown as [[{ many: number }]];
        return row.many;
      };
      await sweepTries(service.deps);
      assert.ok((await tries()) > 0);
      await sweepTries({ ...service.deps, clock: () => later(service.deps.clock(), 3_600_001) });
      assert.equal(await tries(), 0);
    },
  );

  await t.test('an event stream ends with the session it was asked with', async () => {
    const headers = {
      'content-type': 'application/json',
      origin: service.origin,
      'vaquero-request': 'console',
      'x-forwarded-for': '198.51.100.20',
    };
    await addOperator(service);
    const signedIn = await fetch(`${address}/api/sign-in`, {
      method: 'POST',
      headers,
      body: JSON.stringify({ name: tomas.name, password: tomas.password }),
    });
    const cookie = signedIn.headers.get('set-cookie')?.split(';')[0] ?? '';
    const stream = await fetch(`${address}/api/events?project=timetable`, { headers: { cookie } });
    assert.equal(stream.status, 200);
    const heard = stream.text().then(
      () => 'ended',
      () => 'cut',
    );
    await fetch(`${address}/api/sign-out`, { method: 'POST', headers: { ...headers, cookie } });
    assert.equal(await heard, 'cut');
  });
});
