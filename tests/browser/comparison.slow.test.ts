import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';
import { recipeOf } from '../support/working-copy.ts';

test('before a promotion it is told what visitors would see otherwise; page by page it has an address', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  const files = (time: string) => ({
    'vaquero.yaml': recipeOf('cp -r site out'),
    'site/index.html': `<!doctype html><title>Ferry</title><h1>Next at ${time}</h1><p>From Lune Quay</p>`,
    'site/fares.html': '<!doctype html><title>Fares</title><p>Adults 4.20</p>',
  });
  await made.push('One', files('14:40'));
  await service.promote('timetable');
  await made.push('Two', files('14:45'));
  await page.goto(`${service.origin}/p/timetable`);
  await page
    .getByRole('button', { name: /^Promote/ })
    .first()
    .click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText('1 of 2 pages say otherwise, 1 of 2 files differ, ±0').waitFor();
  await sheet.getByRole('link', { name: 'page by page' }).click();
  await page.getByRole('heading', { level: 1, name: /From build 1 .*to build 2/ }).waitFor();
  const said = page.getByRole('region', { name: 'What / says otherwise' });
  await said.waitFor();
  assert.equal(await said.locator('del').textContent(), 'removed: 14:40');
  assert.equal(await said.locator('ins').textContent(), 'added: 14:45');
  assert.match((await said.textContent()) ?? '', /From Lune Quay/);

  // The history says the same of each deploy against the one before.
  await service.promote('timetable');
  await page.goto(`${service.origin}/p/timetable/history/production`);
  await page.getByRole('link', { name: 'from 1 to 2' }).click();
  await page.waitForURL(`${service.origin}/p/timetable/compare/1/2`);
  // What is not there is said, and offers nothing.
  await page.goto(`${service.origin}/p/timetable/compare/1/99`);
  await page
    .getByText(/There is no kept artifact of build "99"/)
    .first()
    .waitFor();
});
