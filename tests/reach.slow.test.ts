import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { commandLine } from './support/command-line.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';

test('who and what reaches where, and what a person, an environment, a commit is about', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.person('noor', 'builder', project);
  const reach = await vaquero('reach', project);
  assert.match(
    reach.out,
    /^ines +operator +promotes, rolls back, holds +pushes, rolls back, holds/m,
  );
  assert.match(
    reach.out,
    /^noor +builder +nothing +pushes, rolls back +pushes, rolls back, ends$/m,
  );
  assert.match(reach.out, /^branch +main +promoted +by itself +not here$/m);
  assert.match(reach.out, /^The rules allow what they say\.$/m);
  // Of a person, an environment, a commit: what the map says of them.
  const commit = (await made.copy.git('rev-parse', 'HEAD')).trim();
  for (const [asked, says] of [
    ['noor', /noor is a builder here\n +production: nothing\n +staging: pushes, rolls back/],
    ['production', /it accepts from staging\n +promotes: ines\n +rolls back: ines\n/],
    [
      commit.slice(0, 9),
      /“One” was built once\n +build 1: passed, for main: staging follows main\nis at +staging/,
    ],
  ] as const) {
    const { out } = await vaquero('why', project, asked);
    assert.match(out, says, asked);
  }
});
