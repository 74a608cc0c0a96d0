import test from 'node:test';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('what is live, what was, and the moves between: each says what it did and what comes next', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await expectEach(service.operator, [
    ['history timetable', 0, /has served nothing|0 deploys/],
    ['promote timetable', 2, /nobody is there to ask/],
    [
      'promote timetable --yes',
      0,
      /^production serves build 1 \w{8} [a-z ]+ since .*: deploy 1, confirmed after/m,
    ],
  ]);
  await made.push('Search by harbour', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await expectEach(service.operator, [
    ['promote timetable --yes', 0, /^production serves build 2 /m],
    ['promote timetable --yes', 3, /^Refused: .*\nNext: /m],
    [
      'history timetable',
      0,
      /^production: 2 deploys, 0 undone\ndeploy +since.*\n2 .* still live\n1 /m,
    ],
    ['history timetable staging', 0, /^staging: 2 deploys/m],
    ['history timetable nowhere', 3, /There is no environment "nowhere"/],
    ['roll-back timetable --yes', 2, /reason/],
    [
      'roll-back timetable --reason "not meant" --yes',
      0,
      /^Undone: deploy 2\. production is held; lift it with: vaquero lift-hold/m,
    ],
    ['lift-hold timetable --yes', 0, /The hold of production is lifted/],
    ['lift-hold timetable --yes', 3, /\nNext: |is not held/],
    ['let-in timetable staging --yes', 3, /Nothing waits for a word in staging/],
    ['edges', 0, /^edge-1 +serves all/m],
    ['add-edge quay', 0, /^vaqe_[\w-]{43}\n[\s\S]*not shown again/],
    ['drop-edge quay', 0, /^/],
    ['drop-edge quay', 3, /There is no edge "quay"[\s\S]*vaquero edges/],
  ]);
});
