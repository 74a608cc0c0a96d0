import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';
import { serves } from '../support/lanes.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('the lanes show an hour to a month, up to now or to an instant, by keys and buttons, and the address keeps it', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await serves(service, 'staging', 1);
  await page.goto(`${service.origin}/p/timetable`);
  const lanes = (name: RegExp) => page.getByRole('region', { name });
  const search = () => new URL(page.url()).searchParams;
  const band = page.locator('.chart').getByRole('link', { name: /^build 1,/ });
  await lanes(/^Lanes over 7 days;/).focus();
  await band.waitFor();

  await page.keyboard.press('+');
  await lanes(/^Lanes over 1 day;/).waitFor();
  assert.equal(search().get('span'), '1d');
  await page.keyboard.press('+');
  await page.keyboard.press('+');
  await page.keyboard.press('+');
  await lanes(/^Lanes over 1 hour;/).waitFor();
  // Its lines are minutes, where they were days.
  const lines = page.locator('.chart .axis-text');
  await lines
    .filter({ hasText: /^\d\d:\d0$/ })
    .first()
    .waitFor();
  await page.reload();
  await lanes(/^Lanes over 1 hour;/).focus();

  // Earlier: nothing of the present is drawn, and what was not yet live is not there.
  await page.keyboard.press('PageUp');
  await page.keyboard.press('PageUp');
  await lanes(/^Lanes over 1 hour, up to /).waitFor();
  assert.ok(search().has('until'));
  assert.equal(await page.locator('.chart .now-line').count(), 0);
  assert.equal(await band.count(), 0);
  const controls = page.getByRole('group', { name: 'What the lanes show' });
  await controls.getByRole('button', { name: 'Now', exact: true }).click();
  await lanes(/^Lanes over 1 hour;/).waitFor();
  await band.waitFor();
  assert.ok(await controls.getByRole('button', { name: 'Later' }).isDisabled());
  await controls.getByRole('button', { name: '30 days' }).click();
  await lanes(/^Lanes over 30 days;/).focus();
  await page.keyboard.press('0');
  await lanes(/^Lanes over 7 days;/).waitFor();
  assert.equal(search().size, 0);

  // An instant of long ago, by its address, is in sight.
  const ago = new Date(Date.now() - 60 * 86_400_000).toISOString();
  await page.goto(`${service.origin}/p/timetable?at=${ago}`);
  await lanes(/^Lanes over 7 days, up to /).waitFor();
  await page.locator('.chart .cursor-line').first().waitFor({ state: 'attached' });
  // Back at the present it is let go of, as it would lead there again.
  await controls.getByRole('button', { name: 'Now', exact: true }).click();
  await lanes(/^Lanes over 7 days;/).waitFor();
  assert.equal(search().size, 0);

  // The lanes of one project never stand under the name of another, however long those take.
  await service.project('signage');
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route('**/api/projects/signage/lanes**', async (route) => {
    await held;
    await route.continue();
  });
  await page.getByRole('link', { name: 'signage' }).click();
  await page
    .getByRole('status')
    .filter({ hasText: /^reading the ledger/ })
    .waitFor();
  assert.equal(await band.count(), 0);
  letGo();
  await page
    .getByRole('heading', { level: 1, name: /^signage waits for the first commit/ })
    .waitFor();
});
