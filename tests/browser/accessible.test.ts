import assert from 'node:assert/strict';
import test from 'node:test';
import { faultsOf } from '../support/auditor.ts';
import { openConsole } from '../support/console.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

/** The pages that one comes to first; all of them, in both themes and all widths, are audited by the slow suite. */
const pages = [
  ['/', /./],
  ['/p/timetable', /./],
  ['/p/timetable/builds/2', /Build 2 failed/],
  ['/p/timetable/history', /changed/],
  ['/p/timetable/map', /goes to staging/],
  ['/p/timetable/settings', /is built from/],
  ['/p/timetable/settings/people', /may do what/],
  ['/new', /What is it called/],
  ['/me', /You are/],
] as const;

test('the pages that one comes to first pass an audit of contrast, names and roles', async (t) => {
  const { service, page } = await openConsole(t, { colorScheme: 'dark' });
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  await made.push('A slip', { 'vaquero.yaml': recipeOf('echo Error >&2; exit 4') });
  await service.buildEnded('timetable', 2);
  for (const [path, heading] of pages) {
    await page.goto(service.origin + path);
    await page.getByRole('heading', { level: 1, name: heading }).waitFor();
    assert.deepEqual(await faultsOf(page), [], path);
  }
  // The auditor sees what is wrong when something is.
  await page.evaluate(() =>
    document.querySelector('main')?.append(document.createElement('button')),
  );
  assert.match((await faultsOf(page)).join('\n'), /^button-name: /m);
});
