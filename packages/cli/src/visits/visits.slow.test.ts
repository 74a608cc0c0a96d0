import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('what visitors asked for is told in figures, and nothing of what never served', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await expectEach(service.operator, [
    ['visits timetable staging', 0, /^staging: 0 requests in the last hour$[\s\S]*^1 +1 /m],
    ['visits timetable nowhere', 3, /There is no environment "nowhere"/],
  ]);
});
