import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('builds, their logs, their machines: each says what a person needs next', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.push('A slip', {
    'vaquero.yaml': recipeOf("echo reading; echo 'Error: unknown harbour' >&2; exit 4"),
  });
  await service.buildEnded('timetable', 2);
  await expectEach(service.operator, [
    ['builds timetable', 0, /^2 +failed .* A slip .*\n1 +passed .* Winter fares /m],
    ['builds timetable --limit 1', 0, /^build .*\n2 [^\n]*\n$/],
    [
      'build timetable 2',
      0,
      /^Build 2 failed after .*: A slip\n[\s\S]*line 4 +Error: unknown harbour/,
    ],
    ['build timetable 1', 0, /^store .* 1 file of out\ninspect .* 1 file: 0 errors, 0 warnings$/m],
    ['build timetable 99', 3, /There is no build "99"[\s\S]*vaquero builds PROJECT/],
    ['build timetable abc', 2, /"abc" is not a number/],
    ['follow timetable 2', 6, /^Error: unknown harbour$/m],
    ['log timetable 2', 0, /^reading\nError: unknown harbour$/m],
    ['log timetable 2 --find harbour', 0, /^ +4 pages +Error: unknown harbour$/m],
    ['log timetable 2 --find nothing-like-it', 3, /^/],
    ['find timetable fares', 0, /^1 +passed .* Winter fares/m],
    ['find timetable nothing-like-it', 3, /^/],
    ['build-again timetable 1', 0, /Build 3 of \w{12} is queued\.[\s\S]*Build 3 passed/],
    ['cancel timetable 3', 3, /Build 3 has ended already: passed\./],
    ['compare timetable 1 3', 0, /Builds 1 and 3 are the same, byte for byte\./],
    ['compare timetable 1 2', 3, /^Refused: /],
    ['runners', 0, /^runner-1 +0 of 2 +takes builds/m],
    ['add-runner pier', 0, /^vaqr_[\w-]{43}\n[\s\S]*not shown again/],
    ['drain-runner pier', 0, /^pier /m],
    ['use-runner pier', 0, /^pier /m],
    ['drop-runner pier', 0, /^/],
    ['drop-runner pier', 3, /There is no runner "pier"[\s\S]*vaquero runners/],
  ]);
});
