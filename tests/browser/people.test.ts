import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';

test('a maintainer invites somebody, who joins by the link, and changes what they may do', async (t) => {
  const { service, page } = await openConsole(t);
  await service.project('timetable');
  await page.goto(`${service.origin}/p/timetable/settings`);
  const people = page.getByRole('region', { name: 'People' });
  await people.getByLabel('Invite somebody as').selectOption('builder');
  await people.getByRole('button', { name: 'Make a link' }).click();
  const link = (await people.getByText(/\/join#/).textContent()) ?? '';
  await people.getByText(/An invitation as builder, by Tomas Revik, waits until/).waitFor();

  const apart = (await page.context().browser()?.newContext()) ?? assert.fail('no browser');
  const theirs = await apart.newPage();
  await theirs.goto(link.trim());
  await theirs
    .getByRole('heading', { name: 'Tomas Revik invites you to timetable as builder' })
    .waitFor();
  await theirs.getByLabel('Your name, as people read it').fill('Noor Aydin');
  await theirs.getByLabel(/A short one to sign in with/).fill('noor');
  await theirs.getByLabel(/A password of at least 12 letters/).fill('too short');
  await theirs.getByRole('button', { name: 'Join' }).click();
  await theirs.getByText('This password has fewer than 12 letters.').waitFor();
  await theirs.getByLabel(/A password of at least 12 letters/).fill('ferry to Orrin at nine');
  await theirs.getByRole('button', { name: 'Join' }).click();
  await theirs.waitForURL('**/p/timetable');
  await theirs.getByText('Noor Aydin').waitFor();

  // Seen at once by whoever looks, changed, and ended.
  const row = people.getByRole('row').filter({ hasText: 'Noor Aydin' });
  await row.getByLabel('Role of Noor Aydin', { exact: true }).selectOption('reader');
  await theirs.goto(`${service.origin}/p/timetable/settings`);
  await theirs.getByText('This takes a maintainer of timetable.').first().waitFor();
  await people.getByRole('button', { name: 'End the role of Noor Aydin' }).click();
  await row.waitFor({ state: 'detached' });
  await theirs.goto(`${service.origin}/p/timetable`);
  await theirs.getByRole('heading', { name: /There is no project "timetable"/ }).waitFor();
  await apart.close();
});
