import assert from 'node:assert/strict';
import { readFile } from 'node:fs/promises';
import test from 'node:test';
import { readRecipe } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('Settings are a page for each question; the recipe in force is shown as text, and taken along', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await page.goto(`${service.origin}/p/timetable/settings/building`);
  const heading = (name: RegExp) => page.getByRole('heading', { level: 1, name }).waitFor();
  await heading(/Nothing was pushed yet/);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await heading(/^Builds follow vaquero\.yaml of the repository/);
  const text = recipeOf(writesPage('one'));
  const shown = page.getByLabel('The recipe as text');
  await shown.getByText('site: out').waitFor();
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download it as vaquero.yaml' }).press('Enter'),
  ]);
  assert.equal(saved.suggestedFilename(), 'vaquero.yaml');
  assert.equal(await readFile(await saved.path(), 'utf8'), text);
  const read = readRecipe(text);
  assert.deepEqual(read.ok && read.value.serve?.site, 'out');

  for (const [tab, says] of [
    ['Values', /^Builds are given/],
    ['People', /^Who may do what in timetable/],
    ['Programs', /^Programs that act for timetable/],
    ['End', /^timetable can be ended/],
    ['Project', /^timetable is built from main/],
  ] as const) {
    await page.getByRole('navigation', { name: 'Settings' }).getByText(tab).press('Enter');
    await heading(says);
  }
});
