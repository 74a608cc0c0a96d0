import assert from 'node:assert/strict';
import test from 'node:test';
import {
  admissionRoutes,
  type EdgeOrder,
  environmentRoutes,
  lifeRoutes,
  mapRoutes,
  projectRoutes,
  type RoutingTable,
} from '@vaquero/contracts';
import { withChanges } from '@vaquero/core';
import { publishTable, tableSince } from '@vaquero/service';
import { memberPage } from './support/admission.ts';
import { serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const staging = { project, environment: 'staging' };

/** What an edge makes of an order; undefined when the order means another table. */
function taken(before: RoutingTable, order: EdgeOrder): RoutingTable | undefined {
  if (order.order === 'table') return order.table;
  if (order.order !== 'changes' || order.from !== before.revision) return undefined;
  const { table, hosts, ended } = order;
  return {
    ...table,
    hosts: withChanges(before.hosts, hosts),
    ended: withChanges(before.ended, ended),
  };
}

/** The whole table as the rows make it now. */
async function whole({ deps }: TestService): Promise<RoutingTable> {
  const order = await tableSince(deps, -1);
  assert.ok(order.order === 'table');
  return order.table;
}

const pageOf = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });

/** What people do with environments, one after another, each with how it is told. */
async function* acts(
  service: TestService,
): AsyncGenerator<readonly [what: string, told: EdgeOrder['order']]> {
  const { operator } = service;
  const made = await service.project(project);
  yield ['a project', 'changes'];
  await made.push('One', pageOf('one'));
  yield ['an automatic deploy', 'changes'];
  await service.promote(project);
  yield ['the first promotion', 'changes'];
  await made.push('Two', pageOf('two'));
  await service.promote(project);
  yield ['two moves', 'changes'];
  const now = await service.environmentOf(project, 'staging');
  await operator.call(environmentRoutes.rollBackRoute, {
    params: staging,
    body: {
      to: { build: 1 },
      reason: 'x',
      seen: { generation: now.generation, artifact: now.serves?.artifact ?? null },
    },
  });
  yield ['a rollback', 'changes'];
  await changeMap(service, project, (text) =>
    text.replace('each: {proposed-into: main}', 'each: {branch: "try/*"}, admits: link'),
  );
  yield ['a map', 'table'];
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay');
  await made.copy.commit('Quay', pageOf('quay'));
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await serves(service, 'try-quay', 3);
  yield ['a preview', 'changes'];
  const preview = { project, environment: 'try-quay' };
  await operator.call(admissionRoutes.lendRoute, { params: preview });
  yield ['a link', 'changes'];
  await operator.call(mapRoutes.endEnvironmentRoute, { params: preview });
  yield ['an end', 'changes'];
  await made.copy.commit('Quay again', pageOf('quay again'));
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await serves(service, 'try-quay', 4);
  yield ['it lives again', 'changes'];
  await changeMap(service, project, (text) =>
    text.replaceAll('staging', 'quay').replace('quay: {follows', 'quay: {was: staging, follows'),
  );
  yield ['another name of an environment', 'table'];
  await operator.call(lifeRoutes.renameRoute, {
    params: { project },
    body: { name: 'sailings', reason: 'x' },
  });
  yield ['another name of the project', 'table'];
  await operator.call(projectRoutes.makeProjectRoute, {
    body: { name: project, repository: { kind: 'hosted' } },
  });
  yield ['a project that takes the former name', 'changes'];
}

const instance = '019aabce-0000-7000-8000-000000000001';

test('what edges are told by what changed makes the table that the rows make, and so does catching up from any table before', async (t) => {
  const service = await startTestService(t);
  const { edges } = service.deps;
  let told = await whole(service);
  const orders: EdgeOrder['order'][] = [];
  edges.join({
    name: 'quay',
    instance,
    revision: told.revision,
    knows: told.revision,
    send: (order) => {
      if (order.order === 'prepare') edges.answered('quay', order.id, null);
      orders.push(order.order);
      told = taken(told, order) ?? (order.order === 'prepare' ? told : assert.fail(order.order));
      edges.noteConfirmed('quay', instance, told.revision);
    },
  });
  const before: RoutingTable[] = [told];
  for await (const [what, how] of acts(service)) {
    await publishTable(service.deps);
    const now = await whole(service);
    assert.deepEqual({ ...told.hosts }, { ...now.hosts }, what);
    assert.deepEqual({ ...told.ended }, { ...now.ended }, what);
    assert.deepEqual([told.moved, told.admission], [now.moved, now.admission], what);
    assert.ok(orders.splice(0).includes(how), `${what} is told as ${how}`);
    before.push(told);
  }
  // Wherever an edge was when it went away, it comes to the same.
  for (const one of before) {
    const order = await tableSince(service.deps, one.revision);
    const now = taken(one, order) ?? assert.fail(`from ${one.revision}`);
    assert.deepEqual({ ...now.hosts }, { ...told.hosts }, `from ${one.revision}`);
    assert.deepEqual({ ...now.ended }, { ...told.ended }, `from ${one.revision}`);
  }
  assert.equal((await tableSince(service.deps, told.revision + 1)).order, 'table');
});

test('an artifact is asked for by name: with the api away those known answer, others say so, and a member’s stays closed', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', pageOf('one'));
  await made.push('Two', pageOf('two'));
  const base = service.deps.config.artifactsBase;
  const host = (build: number) => `build-${build}.${project}.${base}`;
  assert.match((await service.page(host(1))).text, /one/);
  const none = await service.page(host(3));
  assert.deepEqual([none.status, /No site has this name/.test(none.text)], [404, true]);
  // What is known is not closed by a move, and a build that nothing wanted is for members.
  await service.promote(project);
  assert.match((await service.page(host(1))).text, /one/);
  await changeMap(service, project, (text) =>
    text.replace('staging: {', 'staging: {admits: members, '),
  );
  await until('its address is closed', async () => (await service.page(host(1))).status === 401);
  assert.match((await memberPage(service, host(1))).text, /one/);
  await changeMap(service, project, (text) => text.replace('admits: members, ', ''));
  await until('its address is open', async () => (await service.page(host(1))).status === 200);
  await service.stopApi();
  assert.match((await service.page(host(1))).text, /one/);
  const unknown = await service.page(host(2));
  assert.deepEqual(
    [unknown.status, unknown.headers['retry-after'], /cannot be looked up/.test(unknown.text)],
    [503, '5', true],
  );
  assert.match((await service.page(`${project}.localhost`)).text, /two/);
});

test('an edge of the version before is told whole tables, and serves environments without asking for names', async (t) => {
  const service = await startTestService(t, { roles: ['runner'] });
  const stop = new AbortController();
  t.after(() => stop.abort());
  const response = await fetch(
    `${service.address}/role/orders?instance=${instance}&revision=-1&closed=known&changes=known&formats=1,2`,
    {
      headers: {
        authorization: `Bearer ${service.environment.VAQUERO_EDGE_TOKEN}`,
        'vaquero-protocol': '2',
      },
      signal: stop.signal,
    },
  );
  const reader = (response.body ?? assert.fail()).getReader();
  let text = '';
  const next = async (wanted: (order: { order: string; artifacts?: unknown }) => boolean) => {
    for (;;) {
      const lines = text.split('\n').slice(0, -1);
      const found = lines.map((line) => JSON.parse(line)).find(wanted);
      if (found !== undefined) return found;
      const { done, value } = await reader.read();
      assert.ok(!done, 'the orders have ended');
      text += new TextDecoder().decode(value);
    }
  };
  const first = await next(({ order }) => order === 'table');
  assert.deepEqual([first.artifacts, typeof first.list], [[], 'string']);
  await service.project(project);
  const later = await next((order) => JSON.stringify(order).includes(`"${project}.localhost`));
  assert.deepEqual([later.order, later.artifacts], ['table', []]);
});
