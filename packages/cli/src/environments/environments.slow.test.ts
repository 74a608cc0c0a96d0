import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('what is live, and previews kept, ended and listed', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay');
  await made.copy.commit('The quay', { 'quay.txt': 'quay' });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await expectEach(service.operator, [
    ['live', 0, /^timetable +production +serves nothing yet/m],
    ['live timetable', 0, /^timetable +staging +1 +\w{8} /m],
    ['live nowhere', 3, /There is no project "nowhere"/],
    ['previews timetable', 0, /No such preview lives\./],
    ['open-pull-request timetable try/quay --title "The quay"', 0, /^pr-1 open: The quay/m],
  ]);
  await service.buildEnded('timetable', 2);
  await expectEach(service.operator, [
    ['previews timetable', 0, /^pr-1 +ines +2 /m],
    ['keep timetable pr-1 --until 2099-12-20 --reason board', 2, /^Refused: /],
    ['keep timetable pr-1 --until yesterday --reason board', 2, /yesterday/],
    ['end timetable pr-1', 2, /nobody is there to ask/],
    ['end timetable pr-1 --yes', 0, /pr-1 has ended\. Its history and its artifacts stay\./],
    ['end timetable pr-1 --yes', 3, /timetable has no environment "pr-1"/],
  ]);
});
