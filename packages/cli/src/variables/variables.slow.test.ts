import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('values are set, listed without secrets, and taken away', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await expectEach(service.operator, [
    ['variables timetable', 0, /No variable is set\./],
    ['set timetable TIDE', 0, /^TIDE +every build +high +ines/m, { values: ['high'] }],
    [
      'set timetable TOKEN --secret',
      0,
      /^TOKEN +every build +secret +ines/m,
      { values: ['low water'] },
    ],
    ['variables timetable', 0, /^(?!.*low water)[\s\S]*^TIDE [\s\S]*^TOKEN /m],
    ['unset timetable TIDE', 0, /^name[\s\S]*^TOKEN /m],
    ['unset timetable TIDE', 3, /There is no variable "TIDE"[\s\S]*vaquero variables PROJECT/],
  ]);
});
