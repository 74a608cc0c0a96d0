import assert from 'node:assert/strict';
import test from 'node:test';
import { environmentRoutes, favouriteRoutes } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('the projects page says which projects need somebody, why, and where to go', async (t) => {
  const { service, page } = await openConsole(t);
  const heading = (name: string) => page.getByRole('heading', { level: 1, name }).waitFor();
  await page.goto(service.origin);
  await heading('There is no project yet.');
  const made = await service.project('timetable');
  await service.project('tides');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await heading('2 projects, and nothing waits for you.');
  const all = page.getByRole('table', { name: 'All projects' });
  await all.getByRole('row', { name: /^timetable production .*none yet staging .* 2 / }).waitFor();

  // Held: seen without asking again, and lifted from where it leads.
  const { generation, serves } = await service.environmentOf('timetable', 'staging');
  await service.operator.call(environmentRoutes.rollBackRoute, {
    params: { project: 'timetable', environment: 'staging' },
    body: {
      reason: 'Search is out.',
      seen: { generation, artifact: serves?.artifact ?? null },
    },
  });
  await heading('1 of 2 projects needs somebody, timetable first.');
  const needs = page.getByRole('table', { name: 'Projects that need somebody' });
  assert.match((await needs.textContent()) ?? '', /staging held“Search is out.” ines/);
  await needs.getByRole('link', { name: 'Look, lift' }).click();
  await page.getByRole('button', { name: 'Lift hold…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Lift hold' }).click();
  await page.getByRole('dialog').waitFor({ state: 'detached' });

  // What fails below the top is told last.
  await made.push('Three', { 'vaquero.yaml': recipeOf('exit 3') });
  await page.goto(service.origin);
  await needs.getByRole('link', { name: 'Open build 3' }).click();
  await page.waitForURL('**/p/timetable/builds/3');
});

test('favourites stand first, also in the line above; of many projects a word finds those that are meant', async (t) => {
  const { service, page } = await openConsole(t);
  const names = ['annual', 'berths', 'crew', 'dogs', 'ebb', 'fares', 'gulls', 'harbour', 'islands'];
  for (const name of [...names, 'jetties', 'kiosks', 'lamps', 'moorings'])
    await service.project(name);
  await page.goto(service.origin);
  const all = page.getByRole('table', { name: 'All projects' });
  const favourite = page.getByRole('checkbox', { name: 'moorings is a favourite' });
  await favourite.focus();
  await page.keyboard.press('Space');
  const own = page.getByRole('table', { name: 'Favourites' });
  await own.getByRole('rowheader', { name: 'moorings' }).waitFor();
  await all.waitFor({ state: 'detached' });
  await page
    .getByRole('navigation', { name: 'Projects' })
    .getByRole('link', { name: 'moorings' })
    .waitFor();
  // The focus goes along with the row, and what was found is in the address.
  await page.waitForFunction(() => document.activeElement?.id === 'favourite-moorings');
  await page.getByLabel('Find a project').fill('ber');
  await page.getByText('1 of 13').waitFor();
  const others = page.getByRole('table', { name: 'All projects' });
  assert.deepEqual(await others.getByRole('rowheader').allTextContents(), ['berths']);
  await page.reload();
  await page.getByText('1 of 13').waitFor();
  assert.equal(await page.getByLabel('Find a project').inputValue(), 'ber');
  // They are a person's own, and gone with the next press.
  const other = await service.person('noor', 'reader', 'moorings');
  const { projects } = await other.client.call(favouriteRoutes.listFavouritesRoute, {});
  assert.deepEqual(projects, []);
  await page.getByLabel('Find a project').fill('');
  await own.getByRole('checkbox').click();
  await own.waitFor({ state: 'detached' });
});
