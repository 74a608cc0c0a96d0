import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes } from '@vaquero/contracts';
import { brandOf } from '@vaquero/core';
import { execa } from 'execa';
import { openConsole } from './support/console.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const find = async (service: TestService, text: string): Promise<readonly number[]> => {
  const { builds } = await service.operator.call(buildRoutes.findBuildsRoute, {
    params: { project: 'timetable' },
    query: { text },
  });
  return builds.map((build) => build.number);
};

test('a build is found by number, commit, digest, brand, subject and author, with where it is live', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const one = await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  const two = await made.push('Summer fares, 50%_off', {
    'vaquero.yaml': recipeOf(writesPage('two')),
  });
  assert.deepEqual(await find(service, '2'), [2]);
  assert.deepEqual(await find(service, 'build 1'), [1]);
  assert.deepEqual(await find(service, one.commit.id.slice(0, 9).toUpperCase()), [1]);
  assert.deepEqual(await find(service, two.artifact?.digest.slice(0, 12) ?? ''), [2]);
  assert.deepEqual(await find(service, 'FARES'), [2, 1]);
  assert.deepEqual(await find(service, 'fares winter'), [1]);
  assert.deepEqual(await find(service, one.commit.author), [2, 1]);
  const brand = brandOf(one.artifact?.digest ?? ('0' as never)).name;
  assert.ok((await find(service, brand)).includes(1), brand);
  // What would mean anything to the database means itself.
  assert.deepEqual(await find(service, '50%_off'), [2]);
  assert.deepEqual(await find(service, '%'), [2]);
  assert.deepEqual(await find(service, "' or 1=1 -- "), []);
  assert.deepEqual(await find(service, '   '), []);

  const { builds } = await service.operator.call(buildRoutes.findBuildsRoute, {
    params: { project: 'timetable' },
    query: { text: 'fares' },
  });
  assert.deepEqual(
    builds.map((build) => [build.number, build.servedBy]),
    [
      [2, ['staging']],
      [1, ['production']],
    ],
  );
  const long = service.operator.call(buildRoutes.findBuildsRoute, {
    params: { project: 'timetable' },
    query: { text: 'x'.repeat(201) },
  });
  assert.equal((await refusalOf(long)).code, 'invalid-request');

  const vaquero = (...args: string[]) =>
    execa('node', [join(import.meta.dirname, '../packages/cli/dist/vaquero.mjs'), ...args], {
      env: { VAQUERO_ADDRESS: service.address, XDG_CONFIG_HOME: join(service.state, 'home') },
      reject: false,
    });
  const token = ['--token', service.operatorSecret];
  const said = await vaquero('find', 'timetable', 'winter', 'fares', ...token);
  assert.match(said.stdout, /^build +state.*live in\n1 .*Winter fares.*production$/m);
  const nothing = await vaquero('find', 'timetable', 'tide', ...token);
  assert.match(nothing.stderr, /^No build of timetable has “tide” as number, commit, digest/);
});

test('the top line finds a build and an instant by keyboard alone', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.push('Search by harbour', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await page.goto(`${service.origin}/p/timetable/history`);
  await page.getByRole('heading', { level: 1 }).waitFor();
  await page.keyboard.press('/');
  const box = page.getByRole('combobox', { name: /^Find a build/ });
  await until('the box has the focus', () =>
    box.evaluate((element) => element === document.activeElement),
  );
  // Letters that are pages' keys elsewhere are letters here.
  await page.keyboard.type('h');
  const options = page.getByRole('listbox', { name: 'Found' }).getByRole('option');
  await options.getByText('Search by harbour').waitFor();
  assert.equal(new URL(page.url()).pathname, '/p/timetable/history');
  await box.fill('fares');
  await until('one is left', async () => (await options.count()) === 1);
  await options.getByText('Winter fares').waitFor();
  await box.fill('');
  await page.keyboard.type('a');
  await until('both have an a', async () => (await options.count()) === 2);
  await page.keyboard.press('ArrowDown');
  const id = await box.getAttribute('aria-activedescendant');
  assert.equal(await page.locator(`[id="${id}"]`).getAttribute('aria-selected'), 'true');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/p/timetable/builds/1');
  await page.getByRole('heading', { level: 1, name: /Build 1/ }).waitFor();

  await page.keyboard.press('/');
  await page.keyboard.type('no such thing');
  await page.getByText('No build has “no such thing” as number').waitFor();
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await page.keyboard.type('2026-11-20 14:52');
  await options.getByText('What was live at 2026-11-20 14:52 UTC').waitFor();
  await page.keyboard.press('Enter');
  await page.waitForURL('**/p/timetable?at=2026-11-20T14:52:00Z');
  await page.getByRole('heading', { name: /What was live at .*20 Nov 14:52/ }).waitFor();
});
