import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('promote, see it live, roll back with a reason, lift the hold: all in the console, live', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await page.goto(`${service.origin}/p/timetable`);
  await page
    .getByRole('heading', { level: 1, name: /waits for the first commit on main/ })
    .waitFor();
  await page.getByText('git push').waitFor();

  // The page follows by itself: nothing is loaded again here.
  await made.push('First timetable', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await page.getByRole('heading', { level: 1, name: /Build 1 .*can go to production/ }).waitFor();
  await page.getByRole('button', { name: 'Promote…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText('The very bytes that are in staging move. Nothing is built.').waitFor();
  await sheet.getByText('nothing was found against it').waitFor();
  await sheet.getByRole('button', { name: 'Promote 1 to production' }).click();
  await page
    .getByRole('heading', {
      level: 1,
      name: /Production and staging serve the same bytes: build 1/,
    })
    .waitFor();
  assert.equal(
    (await service.page(`timetable.localhost:${service.edgePort}`)).text,
    '<h1>one</h1>',
  );

  await made.push('Search by harbour', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await page.getByRole('button', { name: 'Promote…' }).click();
  await sheet.getByRole('button', { name: 'Promote 2 to production' }).click();
  await sheet.waitFor({ state: 'detached' });
  await page.locator('.right').first().getByRole('button', { name: 'Roll back…' }).click();
  const roll = sheet.getByRole('button', { name: 'Roll back to 1' });
  assert.equal(await roll.isDisabled(), true);
  await sheet.getByLabel(/Why\?/).fill('Nobody finds the next sailing.');
  await roll.click();
  await page
    .getByRole('heading', {
      level: 1,
      name: /Production is held since today .* and serves build 1/,
    })
    .waitFor();
  await page.getByText('“Nobody finds the next sailing.”').first().waitFor();
  assert.equal(
    (await service.page(`timetable.localhost:${service.edgePort}`)).text,
    '<h1>one</h1>',
  );

  await page.getByRole('button', { name: 'Lift hold…' }).click();
  await sheet.getByRole('button', { name: 'Lift hold' }).click();
  await page.getByRole('button', { name: 'Promote…' }).waitFor();

  await page.keyboard.press('h');
  await page.waitForURL('**/history');
  await page
    .getByRole('heading', { level: 1, name: 'Production changed 3 times; one change was undone.' })
    .waitFor();
  const rows = await page.getByRole('row').allTextContents();
  assert.equal(rows.length, 4);
  assert.match(rows[1] ?? '', /3.*rolled back, undoes 2.*Tomas Revik/);
  assert.match(rows[2] ?? '', /Search by harbour.*promoted undone/);
});
