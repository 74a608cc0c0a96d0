import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('projects are made, listed, looked at, renamed and ended; how they are read is refused where nothing is read', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await expectEach(service.operator, [
    ['projects', 0, /^timetable +main +1 passed +hosted +read, look \d+$/m],
    ['make signage', 0, /^signage: waits for the first commit on main$[\s\S]*^push +git push /m],
    ['make signage', 3, /^Refused: .*signage.*\n/],
    ['make', 2, /[Nn]obody is there/],
    ['make a --url https://x.example/a --path /b', 2, /Name one repository/],
    ['look timetable', 0, /^timetable: read, look \d+$/m],
    ['look nowhere', 3, /There is no project "nowhere"/],
    ['source timetable', 0, /^branch +main\nfolder +the repository’s root$/m],
    ['source timetable --folder quay', 2, /It takes a reason/],
    ['repository-token signage', 3, /\(no-credential-needed\)/, { values: ['secret'] }],
    ['repository-token signage --take-back', 3, /\(not-found\)/],
    ['repository-key signage', 3, /\(no-credential-needed\)/],
    ['repository-key', 2, /Name a project; or --url/],
    ['repository-url signage https://x.example/a --reason x --yes', 3, /\(repository-hosted\)/],
    ['rename signage boards --try', 0, /leads there for 30 days/],
    ['rename signage boards --reason "said so" --yes', 0, /boards/],
    ['end-project boards --try', 0, /These environments end at once/],
    ['end-project boards --reason over --typed signage', 2, /\(name-not-typed\)/],
    ['end-project boards --reason over --typed boards', 0, /boards has ended/],
  ]);
});
