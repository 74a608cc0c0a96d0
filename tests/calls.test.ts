import assert from 'node:assert/strict';
import test from 'node:test';
import { auditRoutes, buildRoutes, everyProject, projectRoutes } from '@vaquero/contracts';
import { sql } from 'drizzle-orm';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

test('bad calls get the field that is wrong, and never a fault of ours', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  await service.project('timetable');
  const ask = async (method: string, path: string, text: string, type = 'application/json') => {
    const response = await fetch(`${service.address}${path}`, {
      method,
      headers: { authorization: `Bearer ${service.operatorSecret}`, 'content-type': type },
      ...(method === 'GET' ? {} : { body: text }),
    });
    return (await response.json()) as {
      code: string;
      detail: string;
      status: number;
      requestId: string;
    };
  };
  const cases: readonly (readonly [string, string, string, string, RegExp])[] = [
    ['POST', '/api/projects', '{', 'invalid-request', /body is not JSON/],
    [
      'POST',
      '/api/projects',
      '{"name":"x y","repository":{"kind":"hosted"}}',
      'name-invalid',
      /"x y" cannot be a name/,
    ],
    [
      'POST',
      '/api/projects',
      '{"name":"harbour","repository":{"kind":"ftp"}}',
      'invalid-request',
      /repository\.kind/,
    ],
    [
      'POST',
      '/api/projects',
      '{"name":"harbour","repository":{"kind":"hosted"},"colour":1}',
      'invalid-request',
      /colour/,
    ],
    [
      'POST',
      '/api/projects',
      '{"name":"timetable","repository":{"kind":"hosted"}}',
      'name-taken',
      /is taken/,
    ],
    [
      'POST',
      '/api/projects',
      '{"name":"harbour","folder":"a/../..","repository":{"kind":"hosted"}}',
      'invalid-request',
      /folder must be a folder inside/,
    ],
    [
      'POST',
      '/api/projects',
      '{"name":"harbour","branch":"a..b","repository":{"kind":"hosted"}}',
      'invalid-request',
      /branch is no name/,
    ],
    ['GET', '/api/projects/timetable/builds/99', '', 'not-found', /There is no build "99"/],
    ['GET', '/api/projects/timetable/builds/x', '', 'not-found', /./],
    ['GET', '/api/projects/timetable/builds?limit=100000', '', 'invalid-request', /query\.limit/],
    ['GET', '/api/nothing/here', '', 'not-found', /route/],
    [
      'POST',
      '/api/projects/timetable/environments/nowhere/promotions',
      JSON.stringify({
        from: 'staging',
        artifact: 'a'.repeat(64),
        seen: { generation: 0, artifact: null },
      }),
      'not-found',
      /environment "nowhere"/,
    ],
    [
      'POST',
      '/api/projects/timetable/environments/staging/promotions',
      JSON.stringify({
        from: 'production',
        artifact: 'a'.repeat(64),
        seen: { generation: 0, artifact: null },
      }),
      'accepts-from',
      /follows its branch/,
    ],
    [
      'POST',
      '/api/projects/timetable/environments/production/lifts',
      '{"generation":0}',
      'environment-not-held',
      /is not held/,
    ],
    ['POST', '/api/projects/timetable/builds', '{}', 'no-commit-yet', /first commit on main/],
  ];
  for (const [method, path, text, code, detail] of cases) {
    const problem = await ask(method, path, text);
    assert.equal(problem.code, code, `${method} ${path} ${text}: ${problem.detail}`);
    assert.match(problem.detail, detail);
    assert.match(problem.requestId, /^[0-9a-f-]{36}$/);
  }
});

test('a look that was overtaken writes nothing twice, and a doorbell during a look is not lost', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const made = await service.project('timetable');
  await made.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('x')) });
  await made.copy.push(made.remote);
  // Many rings at once: one look runs, one waits, and all of them end with what is there.
  await Promise.all(
    Array.from({ length: 20 }, () =>
      service.operator.call(projectRoutes.lookRoute, { params: { project: 'timetable' } }),
    ),
  );
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
    query: { limit: 10 },
  });
  assert.deepEqual(
    builds.map((build) => build.number),
    [1],
  );
  // A commit that arrives while looks run is seen by the one that was asked for meanwhile.
  const [rows] = await service.deps.db.execute(sql`select id from repositories`);
  const repository = String((rows as unknown as { id: string }[])[0]?.id);
  const during = service.api.doorbell.ringAndWait(repository, { kind: 'person', doing: null });
  await made.copy.commit('Two', { 'a.txt': 'x' });
  await made.copy.push(made.remote);
  await Promise.all([
    during,
    service.api.doorbell.ringAndWait(repository, { kind: 'person', doing: null }),
  ]);
  const after = await service.operator.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
    query: { limit: 10 },
  });
  assert.deepEqual(
    after.builds.map((build) => build.number),
    [2, 1],
  );
  const entries = await service.operator.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
    query: { limit: 100 },
  });
  assert.equal(entries.entries.filter((entry) => entry.kind === 'change.seen').length, 2);
});

test('a list comes in pages that each name the next', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  await service.project('timetable');
  await service.project('ticket-desk');
  const page = async (path: string) => {
    const headers = { authorization: `Bearer ${service.operatorSecret}` };
    const reply = await fetch(new URL(path, service.address), { headers });
    return { body: await reply.json(), link: reply.headers.get('link') ?? '' };
  };
  const first = await page('/api/projects?limit=1');
  assert.deepEqual(
    first.body.projects.map(({ name }: { name: string }) => name),
    ['ticket-desk'],
  );
  const next = /^<(.+)>; rel="next"$/.exec(first.link)?.[1] ?? assert.fail('no next page');
  const second = await page(next);
  assert.deepEqual(
    [second.body.projects[0].name, second.body.more, second.link],
    ['timetable', false, ''],
  );
  assert.deepEqual(
    (await everyProject(service.operator)).projects.map(({ name }) => name),
    ['ticket-desk', 'timetable'],
  );
});
