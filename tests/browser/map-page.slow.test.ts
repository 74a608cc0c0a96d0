import assert from 'node:assert/strict';
import test from 'node:test';
import { mapRoutes } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { changeMap } from '../support/maps.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('a map is read as a drawing, changed as text, tried while typing, and set with a reason', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.git('push', '--quiet', made.remote, 'main:try/quay-map');
  await page.goto(`${service.origin}/p/timetable/map`);
  await page
    .getByRole('heading', {
      level: 1,
      name: 'main goes to staging, production accepts what staging serves; 0 previews of a family live.',
    })
    .waitFor();
  const drawing = page.getByRole('region', { name: 'The map, drawn' });
  assert.match((await drawing.textContent()) ?? '', /try\/quay-map.*nowhere/);
  assert.match((await drawing.textContent()) ?? '', /follows main.*1 ref/);

  // A fault is told where it is, and shuts the act.
  const editor = page.getByRole('textbox', { name: 'The map as text' });
  await editor.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('  trainig: {folows: {branch: main}}');
  await page
    .getByText(/environments\.trainig\.folows is not a key of a map; did you mean “follows”\?/)
    .first()
    .waitFor();
  assert.ok(await page.getByRole('button', { name: 'Set it' }).isDisabled());
  await page.getByRole('button', { name: 'Leave it' }).click();

  // One family more, for branches: what starts is said before it is set.
  await editor.click();
  await page.keyboard.press('Control+a');
  const { text } = await service.operator.call(mapRoutes.showMapRoute, {
    params: { project: 'timetable' },
  });
  const wider = text.replace('proposed-into: main', 'proposed-into: main, branch: "try/*"');
  await page.keyboard.insertText(wider);
  await page
    .getByRole('heading', {
      level: 1,
      name: 'This draft would start 1 environment, send 1 ref elsewhere.',
    })
    .waitFor();
  const set = page.getByRole('button', { name: 'Set it' });
  assert.ok(await set.isDisabled(), 'without a reason');
  await page.getByRole('textbox', { name: /^Why, for whoever/ }).fill('Each try gets a preview.');
  await set.click();
  await page.getByRole('heading', { level: 1, name: /1 preview of a family lives\.$/ }).waitFor();
  await page.getByText('Each try gets a preview.').first().waitFor();
  await drawing.getByRole('link', { name: 'try-quay-map' }).waitFor();

  // Set meanwhile by somebody else: told at once, the words stay, and they may be put in its place.
  await editor.click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('# a note of mine');
  await page.getByRole('textbox', { name: /^Why, for whoever/ }).fill('A note.');
  await changeMap(service, 'timetable', (old) => `${old}# another\n`);
  await page.getByText('Overtaken: version 3 was set by ines since you began.').waitFor();
  assert.ok(await set.isDisabled());
  assert.match((await editor.textContent()) ?? '', /# a note of mine/);
  await page.getByRole('button', { name: 'Put mine in its place' }).click();
  await set.click();
  await page.getByText('A note.').first().waitFor();
  const now = await service.operator.call(mapRoutes.showMapRoute, {
    params: { project: 'timetable' },
  });
  assert.deepEqual([now.version, /# a note of mine/.test(now.text)], [4, true]);
});

test('who and what reaches where is a table, and why is asked beside it', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.person('noor', 'builder', 'timetable');
  await page.goto(`${service.origin}/p/timetable/map`);
  await page.getByRole('link', { name: 'Reach and why' }).click();
  await page
    .getByRole('heading', { level: 1, name: /^ines and .* can change what production serves\.$/ })
    .waitFor();
  const row = (name: string) =>
    page.getByRole('row').filter({ has: page.getByRole('rowheader', { name, exact: true }) });
  assert.match((await row('noor').textContent()) ?? '', /builder.*nothing.*pushes, rolls back/);
  assert.match((await row('main').textContent()) ?? '', /promoted.*by itself.*not here/);
  await page.getByText('The rules allow what they say.').waitFor();

  // Asked by keyboard; the question stands in the address.
  const ask = page.getByRole('textbox', { name: /^Why\?/ });
  await ask.fill('main');
  await ask.press('Enter');
  await page.getByText('staging: it follows main').waitFor();
  await page.reload();
  await page.getByText('staging: it follows main').waitFor();
  await ask.fill('noor');
  await ask.press('Enter');
  await page.getByText('noor is a builder here').waitFor();
  await page.setViewportSize({ width: 390, height: 800 });
  assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth));
});

test('the map on a phone is a list of rules, and nothing scrolls sideways', async (t) => {
  const { service, page } = await openConsole(t, { width: 390 });
  await service.project('timetable');
  await page.goto(`${service.origin}/p/timetable/map`);
  await page.getByRole('rowheader', { name: 'preview' }).waitFor();
  await page.getByRole('textbox', { name: 'The map as text' }).waitFor();
  assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth));
});
