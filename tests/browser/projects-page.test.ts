import assert from 'node:assert/strict';
import test from 'node:test';
import { environmentRoutes } from '@vaquero/contracts';
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
