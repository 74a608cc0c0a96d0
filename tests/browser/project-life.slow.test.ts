import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';
import { serves } from '../support/lanes.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('a project is called otherwise and ended in Settings, by keyboard, after it was said what that does', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await serves(service, 'staging', 1);
  await page.goto(`${service.origin}/p/timetable/settings`);
  const name = page.getByRole('region', { name: 'Name' });
  await name.getByLabel('Its name').fill('Sailings');
  await name
    .getByText(/"Sailings"|cannot be|is no name/)
    .first()
    .waitFor();
  await name.getByLabel('Its name').fill('sailings');
  await name.getByText(/^staging: .*leads there for 30 days\.$/).waitFor();
  await name.getByLabel('Why another name').fill('only ferries');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/p/sailings/settings');
  await page.getByRole('region', { name: 'Name' }).waitFor();
  // The former page leads to the present one.
  await page.goto(`${service.origin}/p/timetable/builds`);
  await page.waitForURL('**/p/sailings/builds');

  await page.goto(`${service.origin}/p/sailings/settings/end`);
  await page.getByRole('button', { name: 'End sailings…' }).press('Enter');
  const sheet = page.getByRole('dialog');
  await sheet.getByText(/These environments end at once/).waitFor();
  await sheet.getByLabel(/^Why/).fill('the line is closed');
  const end = sheet.getByRole('button', { name: 'End sailings' });
  await sheet.getByLabel('Type sailings to end it').fill('sailing');
  assert.ok(await end.isDisabled());
  await sheet.getByLabel('Type sailings to end it').fill('sailings');
  await end.press('Enter');
  await page.getByText(/^sailings ended on .* is not changed any more/).waitFor();
  await page.getByRole('link', { name: 'the history of staging' }).click();
  await page.getByRole('heading', { level: 1, name: /^Staging changed once/ }).waitFor();
  assert.equal(await page.getByText('still live').count(), 0);
  await page.goto(`${service.origin}/p/sailings`);
  await page.getByRole('heading', { name: 'Nothing of sailings is live any more.' }).waitFor();
  await page.goto(`${service.origin}/`);
  await page.getByText(/^Ended: sailings/).waitFor();
});
