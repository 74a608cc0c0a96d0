import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('a link is lent only where the map lends one, and a pass is for a site that is closed', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await expectEach(service.operator, [
    ['lend timetable staging', 3, /\(not-lent\)/],
    ['lend timetable nowhere', 3, /There is no environment "nowhere"/],
    ['pass timetable', 2, /missing required argument/],
  ]);
});
