import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes, projectRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { lastDue } from '@vaquero/service';
import { until } from './support/place.ts';
import { onSchedule } from './support/schedule.ts';
import { startTestService } from './support/service.ts';
import { makeWorkingCopy } from './support/working-copy.ts';

test('a recipe says which refs it is for, beside what the map sends, and a step which of them it runs for', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const files = {
    'vaquero.yaml': `for: {branch: [main, "try/*"]}
steps:
  pages: {run: mkdir out && echo x > out/index.html}
  links: {run: echo checked, after: pages, for: {branch: main}}
serve: {site: out}
`,
  };
  const first = await made.push('On main', files);
  assert.ok(first.steps.some((step) => step.name === 'links'));
  const pushTo = async (branch: string) => {
    await made.copy.git('push', '--quiet', made.remote, `main:refs/heads/${branch}`);
    const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
      params: { project: 'timetable' },
      query: { limit: 10 },
    });
    return builds.map((build) => [build.number, build.ref]);
  };
  await made.copy.commit('For all branches', { 'README.md': 'x' });
  assert.deepEqual(await pushTo('try/lines'), [
    [2, 'refs/heads/try/lines'],
    [1, 'refs/heads/main'],
  ]);
  assert.equal((await pushTo('other')).length, 2);
  const tried = await service.buildEnded('timetable', 2);
  assert.equal(tried.failure, null);
  assert.ok(!tried.steps.some((step) => step.name === 'links'));
  assert.match(tried.destination, /no environment wants try\/lines/);
});

test('a project in a folder of a repository sees its folder and what its recipe names beyond it', async (t) => {
  const service = await startTestService(t);
  const copy = await makeWorkingCopy(`${service.state}/roots/copy`);
  const recipe = (run: string) => `beyond: /shared
steps:
  pages:
    run: ${run}
    reads: [page.html, /shared/foot.html]
    writes: out
serve: {site: out}
`;
  await copy.commit('Two sites', {
    'shared/foot.html': 'foot',
    'secret/plan.txt': 'not for them',
    'sites/desk/page.html': 'desk ',
    'sites/desk/vaquero.yaml': recipe('cat page.html ../../shared/foot.html > out/index.html'),
    'sites/signs/page.html': 'signs ',
    'sites/signs/vaquero.yaml': recipe(
      'test ! -e ../desk && test ! -e ../../secret && cat page.html ../../shared/foot.html > out/index.html',
    ),
  });
  for (const name of ['desk', 'signs'])
    await service.operator.call(projectRoutes.makeProjectRoute, {
      body: { name, folder: `sites/${name}`, repository: { kind: 'path', path: copy.folder } },
    });
  for (const name of ['desk', 'signs']) {
    const build = await until(`${name} is built`, () =>
      service.buildEnded(name, 1).catch(() => null),
    );
    assert.equal(build.failure, null);
    assert.equal(build.recipe?.recipe.serve?.site, 'out');
    // Edges hear of an artifact's name directly after its build has passed.
    const host = `build-1.${name}.artifacts.localhost:${service.edgePort}`;
    const page = await until(`${name} answers`, async () => {
      const answer = await service.page(host);
      return answer.status === 200 && answer;
    });
    assert.equal(page.text, `${name} foot`);
  }
});

test('a recipe that says again is built afresh when its schedule is due, once, however often it is looked', async (t) => {
  let now = Date.parse('2026-11-23T05:00:00Z');
  const clock = () => now as Instant;
  const service = await startTestService(t, { clock });
  const made = await service.project('timetable');
  const first = await made.push('Every morning', {
    'vaquero.yaml': `again: {cron: 0 6 * * *}
steps:
  pages: {run: echo x > out/index.html, reads: vaquero.yaml, writes: out}
serve: {site: out}
`,
  });
  assert.equal(first.failure, null);
  await onSchedule(service);
  now = Date.parse('2026-11-23T06:00:20Z');
  await Promise.all([onSchedule(service), onSchedule(service)]);
  await onSchedule(service);
  const build = await service.buildEnded('timetable', 2);
  assert.equal(build.cause, 'again, by its schedule 0 6 * * *');
  assert.deepEqual(
    build.steps.filter((step) => step.name === 'pages').map((step) => step.state),
    ['passed'],
  );
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
    query: { limit: 10 },
  });
  assert.equal(builds.length, 2);
});

test('a schedule is due at the minute it names, in the zone of the map', () => {
  const due = (cron: string, at: string, zone?: string) =>
    new Date(lastDue(cron, Date.parse(at) as Instant, zone)).toISOString();
  assert.equal(due('0 6 * * 1', '2026-11-24T09:00:00Z'), '2026-11-23T06:00:00.000Z');
  assert.equal(due('0 6 * * 1', '2026-11-23T06:00:00Z'), '2026-11-23T06:00:00.000Z');
  assert.equal(due('*/15 * * * *', '2026-11-23T05:44:59Z'), '2026-11-23T05:30:00.000Z');
  // Six in the morning at the quay, in winter and in summer.
  const dublin = 'Europe/Dublin';
  assert.equal(due('0 6 * * *', '2026-11-24T09:00:00Z', dublin), '2026-11-24T06:00:00.000Z');
  assert.equal(due('0 6 * * *', '2026-06-24T09:00:00Z', dublin), '2026-06-24T05:00:00.000Z');
});
