import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { environmentRoutes } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { changeMap } from '../support/maps.ts';
import { open } from '../support/pull-requests.ts';
import { makeWorkingCopy, recipeOf, writesPage } from '../support/working-copy.ts';

interface Outside {
  readonly told: { readonly says: string; readonly body: string; readonly tag: string }[];
  isAway: boolean;
}

test('whoever began a build is told of its end on any page, and in other windows where they allow it', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  // What the browser shows outside of its window is written down, and so is whether somebody looks at the window.
  await page.context().grantPermissions(['notifications'], { origin: service.origin });
  await page.addInitScript(() => {
    const outside: Outside = { told: [], isAway: false };
    Object.assign(window, { outside });
    Object.defineProperty(document, 'hidden', { get: () => outside.isAway });
    const Shown = class {
      static permission = 'granted';
      constructor(says: string, { body, tag }: { body: string; tag: string }) {
        outside.told.push({ says, body, tag });
      }
    };
    Object.assign(window, { Notification: Shown });
  });
  await page.goto(`${service.origin}/p/timetable/builds/1`);
  await page.getByRole('button', { name: 'Build again', exact: true }).click();
  await page.waitForURL(/builds\/2$/);
  await page.getByRole('link', { name: 'Vaquero, all projects' }).click();
  const told = page.getByRole('region', { name: /^Told/ });
  const end = told.getByRole('link', { name: 'Build 2 of timetable passed' });
  await end.waitFor();
  await told.getByText('main: One').waitFor();
  assert.deepEqual(await page.evaluate(outsideTold), []);
  // By keys alone: F8 goes there, Escape closes it.
  await page.keyboard.press('F8');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Escape');
  await end.waitFor({ state: 'detached' });

  // What somebody else pushed is told them alone; what waits for a word is told those who may give one.
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'fares');
  await fork.commit('Fares', { 'fares.txt': 'low' });
  await page.evaluate(() => {
    (window as unknown as { outside: Outside }).outside.isAway = true;
  });
  await open(service, 'fares', fork.folder);
  await told.getByRole('link', { name: 'pr-1 of timetable waits for a word' }).waitFor();
  assert.equal(await told.getByRole('listitem').count(), 1);
  assert.deepEqual(
    (await page.evaluate(outsideTold)).map(({ says, body }) => [says, body]),
    [['pr-1 of timetable waits for a word', 'About fares']],
  );
  await told.getByRole('link').first().click();
  await page.waitForURL(/\/p\/timetable\/pr-1$/);

  // What passed and waits to be let in is told those who may let it in, and those alone.
  await changeMap(service, 'timetable', (text) =>
    text.replace('follows: {branch: main}', 'follows: {branch: main}, enters: on-word'),
  );
  await made.copy.commit('Three', { 'vaquero.yaml': recipeOf(writesPage('three')) });
  await made.copy.push(made.remote);
  await told.getByRole('link', { name: /of timetable waits to be let into staging/ }).waitFor();
  const offered = (client: typeof service.operator) =>
    client.call(environmentRoutes.offersRoute, {});
  const [offer] = (await offered(service.operator)).offers;
  assert.deepEqual(
    [offer?.project, offer?.environment, offer?.subject],
    ['timetable', 'staging', 'Three'],
  );
  const reader = await service.person('wren', 'reader', 'timetable');
  await service.project('signage');
  const stranger = await service.person('olle', 'builder', 'signage');
  for (const { client } of [reader, stranger]) assert.deepEqual((await offered(client)).offers, []);
});

function outsideTold(): Outside['told'] {
  return (window as unknown as { outside: Outside }).outside.told;
}
