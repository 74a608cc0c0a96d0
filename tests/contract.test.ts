import assert from 'node:assert/strict';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { createConfig, lintFromString } from '@redocly/openapi-core';
import {
  auditRoutes,
  CallRefused,
  type Client,
  everyRoute,
  mapRoutes,
  pathOf,
  protocol,
  protocolHeader,
} from '@vaquero/contracts';
import { openApi } from '@vaquero/service';
import { refusalOf, startTestService } from './support/service.ts';

const path = join(import.meta.dirname, '../docs/openapi.json');
const text = (document: object): string => `${JSON.stringify(document, null, 1)}\n`;

test('the description of all calls that is checked in is that of their declarations, and the service gives it', async (t) => {
  // `VAQUERO_WRITE_PAGES=1 npm test tests/contract.test.ts` makes it anew.
  if (process.env.VAQUERO_WRITE_PAGES === '1') writeFileSync(path, text(openApi()));
  assert.equal(readFileSync(path, 'utf8'), text(openApi()));
  const service = await startTestService(t, { roles: [] });
  assert.equal(text(await service.operator.call(auditRoutes.openApiRoute)), text(openApi()));
});

test('a common linter finds nothing against it', async () => {
  const config = await createConfig({ extends: ['recommended'] });
  const problems = await lintFromString({ source: text(openApi()), absoluteRef: path, config });
  assert.deepEqual(
    problems.map(({ ruleId, message, location }) => [ruleId, message, location[0]?.pointer]),
    [],
  );
});

test('every route that is declared is served, and none that is not', async (t) => {
  const service = await startTestService(t, { roles: [] });
  const unserved: string[] = [];
  for (const [name, route] of everyRoute) {
    const params = new Proxy({}, { get: () => '1', has: () => true });
    const answer = await fetch(`${service.address}${pathOf(route, params)}`, {
      method: route.method,
    });
    const { what } = (await answer.json().catch(() => ({}))) as { what?: string };
    if (what === 'route') unserved.push(name);
  }
  assert.deepEqual(unserved, []);
  const keys = everyRoute.map(([, { method, path: where }]) => `${method} ${where}`);
  assert.equal(new Set(keys).size, keys.length);
});

test('runners and edges of this version and of the one before are served; others are told which side to update', async (t) => {
  const service = await startTestService(t, { roles: [] });
  const beat = async (speaks: string | null) => {
    const answer = await fetch(`${service.address}/role/beats`, {
      method: 'POST',
      headers: {
        authorization: `Bearer ${service.environment.VAQUERO_EDGE_TOKEN}`,
        'content-type': 'application/json',
        ...(speaks === null ? {} : { [protocolHeader]: speaks }),
      },
      body: JSON.stringify({ instance: '019aabce-0000-7000-8000-000000000001', revision: 0 }),
    });
    const text = await answer.text();
    const { next } = (text.startsWith('{') ? JSON.parse(text) : {}) as { next?: string };
    return [answer.status, next ?? text];
  };
  assert.deepEqual(await beat(null), [409, 'Bring this runner or edge up to date.']);
  assert.deepEqual(await beat(String(protocol - 1)), [204, '']);
  assert.deepEqual(await beat(String(protocol)), [204, '']);
  assert.deepEqual(await beat(String(protocol + 1)), [409, 'Bring the service up to date.']);
  assert.deepEqual(await beat(String(protocol - 2)), [
    409,
    'Bring this runner or edge up to date.',
  ]);
});

test('what two people set anew at once: the second is told who was first, and nothing of either is lost', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project('timetable');
  const wren = await service.person('wren', 'maintainer', 'timetable');
  const params = { project: 'timetable' };
  const seen = await service.operator.call(mapRoutes.showMapRoute, { params });
  const set = (client: Client, reason: string, tag?: string) =>
    client.call(mapRoutes.setMapRoute, {
      params,
      body: { text: seen.text, reason, ends: [] },
      ...(tag === undefined ? {} : { seen: tag }),
    });
  assert.equal((await refusalOf(set(wren.client, 'calm seas'))).status, 428);
  const both = await Promise.allSettled([
    set(wren.client, 'calm seas', seen.tag),
    set(service.operator, 'storm', seen.tag),
  ]);
  const [stale] = both.flatMap((end) => (end.status === 'rejected' ? [end.reason as unknown] : []));
  assert.ok(stale instanceof CallRefused);
  assert.equal(stale.problem.status, 412);
  const first = both[0]?.status === 'fulfilled' ? 'wren' : 'ines';
  assert.match(stale.problem.detail, new RegExp(`^The map was set anew by ${first} at 20`));
  // Who has read it again may set it.
  const now = await fetch(`${service.address}/api/projects/timetable/map`, {
    headers: { authorization: `Bearer ${wren.secret}` },
  });
  const tag = now.headers.get('etag') ?? '';
  assert.match(tag, /^"[1-9][0-9]*"$/);
  await set(wren.client, 'calm again', tag.slice(1, -1));
  await set(wren.client, 'and storm', '*');
});
