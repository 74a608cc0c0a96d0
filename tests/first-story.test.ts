import assert from 'node:assert/strict';
import test from 'node:test';
import { environmentRoutes, projectRoutes } from '@vaquero/contracts';
import { hostLabelOf } from '@vaquero/core';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

test('a push is built and staging serves it; production gets the same bytes and can go back', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const staging = `staging.timetable.localhost:${service.edgePort}`;
  const production = `timetable.localhost:${service.edgePort}`;

  // 1: nothing is there yet, and the page says what it waits for
  const waiting = await service.page(staging);
  assert.equal(waiting.status, 503);
  assert.match(waiting.text, /waits for the first commit on main/);

  // 2: the first commit is built and staging serves it
  const first = await made.push('First timetable', {
    'vaquero.yaml': recipeOf(writesPage('Lune Quay')),
  });
  assert.equal(first.state, 'passed');
  assert.deepEqual(first.live, ['staging']);
  assert.deepEqual(
    first.steps.map((step) => [step.name, step.state]),
    [
      ['fetch', 'passed'],
      ['pages', 'passed'],
      ['store', 'passed'],
      ['inspect', 'passed'],
      ['look', 'passed'],
    ],
  );
  const page = await service.page(staging);
  assert.equal(page.text, '<h1>Lune Quay</h1>');
  assert.equal(page.headers['vaquero-deploy'], '1');
  assert.equal(page.headers['vaquero-commit'], first.commit.id);

  // 3: the artifact answers at both of its own addresses
  const digest = first.artifact?.digest ?? assert.fail('no artifact');
  for (const host of [
    `${hostLabelOf(digest)}.artifacts.localhost:${service.edgePort}`,
    `build-1.timetable.artifacts.localhost:${service.edgePort}`,
  ]) {
    assert.equal((await service.page(host)).text, '<h1>Lune Quay</h1>');
  }

  // 4: production takes the same artifact without another build
  await service.promote('timetable');
  assert.equal((await service.page(production)).headers['vaquero-artifact'], digest);
  assert.equal((await service.environmentOf('timetable', 'production')).serves?.build, 1);

  // 5: a bad change is promoted and rolled back; production is held
  const bad = await made.push('Search by harbour', {
    'vaquero.yaml': recipeOf(writesPage('broken')),
  });
  await service.promote('timetable');
  assert.equal((await service.page(production)).text, '<h1>broken</h1>');
  const seen = await service.environmentOf('timetable', 'production');
  const back = await service.operator.call(environmentRoutes.rollBackRoute, {
    params: { project: 'timetable', environment: 'production' },
    body: {
      reason: 'Nobody finds the next sailing.',
      seen: { generation: seen.generation, artifact: bad.artifact?.digest ?? null },
    },
  });
  assert.equal(back.confirmed, true);
  assert.deepEqual(back.deploy.undoes, { first: 2, last: 2 });
  assert.equal((await service.page(production)).text, '<h1>Lune Quay</h1>');

  // 6: held: a promotion is refused with the reason, until somebody lifts the hold
  const problem = await refusalOf(service.promote('timetable'));
  assert.equal(problem.code, 'environment-held');
  assert.match(problem.detail, /Nobody finds the next sailing/);
  const held = await service.environmentOf('timetable', 'production');
  await service.operator.call(environmentRoutes.liftHoldRoute, {
    params: { project: 'timetable', environment: 'production' },
    body: { generation: held.generation },
  });
  await service.promote('timetable');
  assert.equal((await service.page(production)).text, '<h1>broken</h1>');

  // 7: the history tells all of it
  const history = await service.operator.call(environmentRoutes.historyRoute, {
    params: { project: 'timetable', environment: 'production' },
    query: { limit: 10 },
  });
  assert.deepEqual(
    history.deploys.map((deploy) => [deploy.number, deploy.kind, deploy.build, deploy.undone]),
    [
      [4, 'promoted', 2, false],
      [3, 'rolled-back', 1, false],
      [2, 'promoted', 2, true],
      [1, 'promoted', 1, false],
    ],
  );
  assert.equal(history.undone, 1);
});

test('an empty repository waits for the first commit and is no failure', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  await service.project('signage');
  const project = await service.operator.call(projectRoutes.showProjectRoute, {
    params: { project: 'signage' },
  });
  assert.equal(project.repository.state, 'waits for the first commit on main');
  assert.equal(project.lastBuild, null);
  assert.deepEqual(
    project.addresses.map((one) => one.environment),
    ['production', 'staging'],
  );
});
