import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('a pull request is opened, judged, made a draft, retargeted, merged, closed and opened again', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  for (const name of ['quay', 'pier']) {
    await made.copy.git('checkout', '--quiet', '-b', `try/${name}`, 'main');
    await made.copy.commit(`The ${name}`, { [`${name}.txt`]: name });
    await made.copy.git('push', '--quiet', made.remote, `try/${name}`);
  }
  await expectEach(service.operator, [
    ['pull-requests timetable', 0, /No pull request yet\. Open one: /],
    [
      'open-pull-request timetable try/quay --title "The quay"',
      0,
      /^merges +try\/quay into main, 1 commit ahead$/m,
    ],
    ['open-pull-request timetable try/quay', 3, /\(pull-request-open\)/],
    ['open-pull-request timetable try/pier', 0, /^pr-2 open/m],
    ['pull-requests timetable', 0, /^pr-2 +open [\s\S]*^pr-1 +open /m],
    [
      'pull-requests timetable --limit 1',
      0,
      /^There are more: vaquero pull-requests timetable --after pr-2$/m,
    ],
    ['pull-requests timetable --after pr-2', 0, /^(?![\s\S]*^pr-2)[\s\S]*^pr-1 /m],
    ['pull-request timetable pr-9', 3, /There is no pull request "pr-9"/],
    ['verdict timetable pr-1 looks-right --says Fine', 0, /^verdict +ines: looks right, “Fine”/m],
    ['draft timetable pr-1', 0, /^pr-1 open, a draft: /m],
    ['merge-pull-request timetable pr-1 --yes', 3, /\(pull-request-draft\)/],
    ['draft timetable pr-1 --no-longer', 0, /^pr-1 open: /m],
    ['retarget-pull-request timetable pr-1 main', 0, /into main/],
    ['give-word timetable pr-1 --yes', 3, /\(no-word-needed\)/],
    ['merge-pull-request timetable pr-1 --yes', 0, /pr-1/],
    ['bring-in timetable pr-2', 0, /main is in try\/pier/],
    ['close-pull-request timetable pr-2', 0, /pr-2 is closed\. What was built of it stays\./],
    ['close-pull-request timetable pr-2', 3, /^Refused: /],
    ['reopen-pull-request timetable pr-2', 0, /^pr-\d open/m],
  ]);
});
