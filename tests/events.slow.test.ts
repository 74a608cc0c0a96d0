import assert from 'node:assert/strict';
import test from 'node:test';
import { auditRoutes } from '@vaquero/contracts';
import { listenTo, positionsOf } from './support/events.ts';
import { stopsFor } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

test('whoever listens to a project hears of its pushes, builds and moves, and of nothing else', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const other = await service.project('signage');
  const secret = service.operatorSecret;
  const [timetable, signage] = await Promise.all([
    listenTo(t, service.address, { secret, project: 'timetable' }),
    listenTo(t, service.address, { secret, project: 'signage' }),
  ]);
  assert.match(timetable.response.headers.get('content-type') ?? '', /^text\/event-stream/);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const has = (what: string, build?: number): boolean =>
    timetable.heard.some(
      (event) => event.what === what && (build === undefined || event.build === build),
    );
  await until(
    'the push, the build and the move are heard',
    () => ['repository', 'environment'].every((what) => has(what)) && has('build', 1),
  );
  assert.deepEqual(
    signage.heard.filter(({ project }) => project !== null),
    [],
    'another project is another matter',
  );
  const before = timetable.heard.length;
  await service.promote('timetable');
  await until('the promotion is heard', () =>
    timetable.heard.slice(before).some((event) => event.what === 'environment'),
  );
  // Who left is told nothing more, and keeps nothing from being told to others.
  timetable.leave();
  const left = timetable.heard.length;
  await other.push('One', { 'vaquero.yaml': recipeOf(writesPage('sign')) });
  await until('the other project is heard', () => positionsOf(signage.heard).length > 0);
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  assert.equal(timetable.heard.length, left);
});

test('whoever comes back is told what they missed, once and in order; too much of it as one word', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project('timetable');
  const secret = service.operatorSecret;
  const settle = (rules: readonly string[]) => stopsFor(service, 'timetable', rules);
  const first = await listenTo(t, service.address, { secret });
  await settle(['grew']);
  await until('the first is heard', () => positionsOf(first.heard).length === 1);
  first.leave();
  await settle([]);
  await settle(['grew']);
  const [after] = positionsOf(first.heard);
  const second = await listenTo(t, service.address, { secret, after: after ?? 0 });
  await settle([]);
  await until(
    'what was missed and what came since is heard',
    () => positionsOf(second.heard).length === 3,
  );
  const { entries } = await service.operator.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
  });
  const set = entries.filter(({ kind }) => kind === 'map.set');
  assert.deepEqual(
    [...positionsOf(first.heard), ...positionsOf(second.heard)],
    set.map(({ position }) => position).toReversed(),
  );
  // A position that is not yet, of an installation that was set up anew: everything is asked for again.
  const third = await listenTo(t, service.address, { secret, after: 999_999 });
  await until('everything is to be asked for', () => third.named.includes('everything'));
  assert.deepEqual(positionsOf(third.heard), []);
});

test('who may not see a project does not hear of it, and is not told that it is there', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project('timetable');
  await service.project('signage');
  const { secret } = await service.person('wren', 'reader', 'signage');
  const statusFor = async (project: string, by = secret): Promise<number> =>
    (await listenTo(t, service.address, { secret: by, project })).response.status;
  assert.deepEqual(
    [
      await statusFor('signage'),
      await statusFor('timetable'),
      await statusFor('nowhere'),
      await statusFor('signage', 'vaq_nobody'),
    ],
    [200, 404, 404, 401],
  );
  // Also who listens to all that they may see hears nothing of the rest.
  const all = await listenTo(t, service.address, { secret, after: 0 });
  await until('their own is heard', () => all.heard.length > 0);
  assert.deepEqual([...new Set(all.heard.map(({ project }) => project))], ['signage']);
});
