import assert from 'node:assert/strict';
import test from 'node:test';
import { mapRoutes } from '@vaquero/contracts';
import { environments } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

test('maps set at once and while branches are pushed: one is told of the other, and what lives is what the last one says', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const { text, tag } = await service.operator.call(mapRoutes.showMapRoute, { params });
  const withBranches = (glob: string): string =>
    text.replace('each: {proposed-into: main}', `each: {branch: "${glob}"}, ends: {closed: 0 min}`);
  const set = (body: string, seen: string) =>
    service.operator
      .call(mapRoutes.setMapRoute, {
        params,
        body: { text: body, reason: 'at once', ends: [] },
        seen,
      })
      .then(
        () => 'set',
        () => 'refused',
      );
  const both = await Promise.all([
    set(withBranches('try/*'), tag),
    set(withBranches('new/*'), tag),
  ]);
  assert.deepEqual(both.sort(), ['refused', 'set']);

  // Each push goes by the map that stands as it is written down; what it missed is found when the next map is set.
  const pushes = ['try/a', 'new/b', 'try/c', 'new/d'].map((branch) => `main:${branch}`);
  const push = async (): Promise<void> => {
    for (const one of pushes) await made.copy.git('push', '--quiet', made.remote, one);
  };
  const change = async (): Promise<void> => {
    for (const glob of ['new/*', 'try/*', 'new/*', 'try/*', 'new/*'])
      await changeMap(service, project, () => withBranches(glob));
  };
  await Promise.all([push(), change()]);
  const seen = () => environments(service);
  const areServing = async () => {
    const serving = (await seen()).filter((one) => one.family !== null && one.serves !== null);
    return (
      serving
        .map(({ name }) => name)
        .sort()
        .join() === 'new-b,new-d'
    );
  };
  await until('the branches of the last map are served, and no other', areServing, { seen });
  await until('what lives is what the map says', async () => {
    const tried = await service.operator.call(mapRoutes.tryMapRoute, {
      params,
      body: { text: withBranches('new/*') },
    });
    const { starts, ends } = tried.difference;
    return starts.length + ends.length === 0;
  });
});
