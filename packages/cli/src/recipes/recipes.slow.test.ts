import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { temporaryFolder } from '../../../../tests/support/place.ts';
import { startTestService } from '../../../../tests/support/service.ts';
import { recipeOf, writesPage } from '../../../../tests/support/working-copy.ts';
import { expectEach } from '../run-for-tests.ts';

test('a recipe is shown, as a file, too, and checked; a faulty one is told by its place', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const folder = temporaryFolder(t);
  const [good, faulty] = [join(folder, 'vaquero.yaml'), join(folder, 'faulty.yaml')];
  writeFileSync(good, recipeOf(writesPage('one')));
  writeFileSync(faulty, 'recipe: site\nformat: 1\nsteps: 7\n');
  await expectEach(service.operator, [
    [
      'recipe timetable',
      0,
      /^Recipe site: read from vaquero\.yaml in the repository$[\s\S]*^ +pages +mkdir/m,
    ],
    ['recipe timetable --text', 0, /^recipe: site\nformat: 1\nsteps:$/m],
    ['accept-recipe timetable', 3, /\(recipe-file-wins\)/],
    [`check-recipe ${good}`, 0, /is in order: pages\./],
    [`check-recipe ${faulty}`, 3, /faulty\.yaml:3:\d+/],
    ['recipe-schema', 0, /"\$schema"/],
    ['recipe nowhere', 3, /There is no project "nowhere"/],
  ]);
});
