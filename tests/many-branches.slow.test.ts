import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes, environmentRoutes } from '@vaquero/contracts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const params = { project: 'timetable' };

test('a first look at many branches starts as many previews as fit, and no build for the rest', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await changeMap(service, 'timetable', (text) =>
    text.replace('{each: {proposed-into: main}', '{each: {branch: "try/*"}, at-most: 3'),
  );
  const branches = Array.from({ length: 60 }, (_, place) => `main:try/${place}`);
  await made.copy.git('push', '--quiet', made.remote, ...branches);
  await until('three live, and serve what was built', async () => {
    const { environments } = await service.operator.call(environmentRoutes.lanesRoute, {
      params,
      query: { days: 1 },
    });
    const previews = environments.filter(({ family }) => family !== null);
    return previews.length === 3 && previews.every(({ serves }) => serves?.build === 2);
  });
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
    params,
    query: { limit: 50 },
  });
  // All are of one commit, so it is one build.
  assert.equal(builds.length, 2);
});
