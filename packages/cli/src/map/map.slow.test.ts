import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { temporaryFolder } from '../../../../tests/support/place.ts';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('a map is shown, explained, tried, set and checked, and a faulty one is told by its place', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const folder = temporaryFolder(t);
  const [good, faulty] = [join(folder, 'map.yaml'), join(folder, 'faulty.yaml')];
  const text = (preview: string) => `map: timetable
format: 1
lanes: [production, staging, preview]
environments:
  production: {accepts: {from: staging}}
  staging: {follows: {branch: main}}
  preview: {each: ${preview}}
`;
  writeFileSync(good, text('{branch: "try/*"}'));
  writeFileSync(faulty, text('{proposed-into: main}, lives: 3'));
  await expectEach(service.operator, [
    ['map timetable', 0, /^Version 1 of .*\nlane[\s\S]*^staging +follows main +main +staging$/m],
    ['map timetable --text', 0, /^map: timetable\nformat: 1$/m],
    ['why timetable main', 0, /^yes +staging: it follows main$/m],
    ['why timetable nowhere', 0, /nowhere/],
    ['reach timetable', 0, /^ines +operator /m],
    [`check-map ${good}`, 0, /in order/],
    [
      `check-map ${faulty}`,
      3,
      /faulty\.yaml:7:\d+: environments\.preview\.lives is not a key of a map/,
    ],
    [`check-map ${folder}/none.yaml`, 2, /none\.yaml/],
    [`try-map timetable ${faulty}`, 2, /line 7, column \d+/],
    [`try-map timetable ${good}`, 0, /preview/],
    [`set-map timetable ${good} --yes`, 2, /reason/],
    [`set-map timetable ${good} --reason "by branch" --yes`, 0, /Version 2|version 2/],
    ['map-versions timetable', 0, /^2 .* by branch$[\s\S]*^1 /m],
    ['map-schema', 0, /"\$schema"/],
  ]);
});
