import assert from 'node:assert/strict';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { createConfig, lintFromString } from '@redocly/openapi-core';
import { auditRoutes, everyRoute, pathOf } from '@vaquero/contracts';
import { openApi } from '@vaquero/service';
import { startTestService } from './support/service.ts';

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
