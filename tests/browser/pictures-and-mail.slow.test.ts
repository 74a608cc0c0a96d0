import assert from 'node:assert/strict';
import test from 'node:test';
import { startPostOffice } from '@vaquero/standins';
import axe from 'axe-core';
import { openConsole } from '../support/console.ts';
import { changeMap } from '../support/maps.ts';
import { atEnd } from '../support/place.ts';
import { recipeOf } from '../support/working-copy.ts';

const project = 'timetable';

test('pictures of what differs come while somebody looks, and are named for those who see none', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project(project);
  await changeMap(service, project, (text) =>
    text.replace('staging: {', 'staging: {pictures: yes, '),
  );
  const files = (colour: string) => ({
    'vaquero.yaml': recipeOf('cp -r site out'),
    'site/index.html': `<!doctype html><title>Ferry</title><body style="background: ${colour}"><h1>Next</h1>`,
  });
  await made.push('One', files('white'));
  await made.push('Two', files('teal'));
  await page.goto(`${service.origin}/p/${project}/compare/1/2`);
  const pictures = page.getByRole('region', { name: 'Pictures' });
  await pictures.getByText('Pictures: 1 page looks otherwise.').waitFor({ timeout: 90_000 });
  const one = pictures.getByRole('listitem').first();
  await one.locator('summary').press('Enter');
  await one.getByRole('img', { name: '/, as build 2 has it' }).waitFor();
  await one.getByRole('button', { name: 'What differs' }).click();
  const image = one.getByRole('img', { name: /^\/, what differs between builds 1 and 2: \d+/ });
  await image.waitFor();
  const width = await image.evaluate(
    (element) => (element as unknown as { naturalWidth: number }).naturalWidth,
  );
  assert.equal(width, 1280);
  await page.evaluate(axe.source);
  const violations = await page.evaluate(
    'axe.run(document.querySelector("[aria-label=Pictures]")).then(({ violations }) => violations.map(({ id }) => id))',
  );
  assert.deepEqual(violations, []);
});

test('an address is added on one’s own page and shown to be one’s own by the link of its mail', async (t) => {
  const office = await startPostOffice();
  atEnd(t, office.stop);
  const { service, page } = await openConsole(t, {
    environment: { VAQUERO_MAIL_SERVER: office.url, VAQUERO_MAIL_FROM: 'vaquero@ferries.example' },
  });
  await page.goto(`${service.origin}/me`);
  const own = page.getByRole('region', { name: 'Mail addresses' });
  await own.getByLabel('Another address: a link is sent to it').fill('tomas@ferries.example');
  await page.keyboard.press('Enter');
  await own.getByText('The link is sent, and good for a day.').waitFor();
  await own.getByText('its link waits to be opened').waitFor();
  const link = /\S+\/mail#\S+/.exec(office.mails[0]?.text ?? '')?.[0] ?? assert.fail();
  await page.goto(link);
  await page.getByRole('button', { name: 'It is mine' }).click();
  await page.getByRole('heading', { name: 'This address is yours.' }).waitFor();
  await page.getByRole('link', { name: 'All your addresses' }).click();
  await own.getByText(/^since /).waitFor();
  // The link works once.
  await page.goto('about:blank');
  await page.goto(link);
  await page.getByRole('button', { name: 'It is mine' }).click();
  await page.getByText(/There is no such link of yours/).waitFor();
  await page.goto(`${service.origin}/me`);
  await own.getByRole('button', { name: 'Take tomas@ferries.example away' }).click();
  await own.getByText('None yet.').waitFor();
});
