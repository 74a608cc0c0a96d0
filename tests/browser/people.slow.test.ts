import assert from 'node:assert/strict';
import test from 'node:test';
import { signIn } from '../../tools/browser.mjs';
import { openConsole } from '../support/console.ts';

test('a maintainer invites somebody, who joins by the link, and changes what they may do', async (t) => {
  const { service, page } = await openConsole(t);
  await service.project('timetable');
  await page.goto(`${service.origin}/p/timetable/settings/people`);
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
  await theirs.goto(`${service.origin}/p/timetable/settings/people`);
  await theirs.getByText('This takes a maintainer of timetable.').first().waitFor();
  await people.getByRole('button', { name: 'End the role of Noor Aydin' }).click();
  await row.waitFor({ state: 'detached' });
  await theirs.goto(`${service.origin}/p/timetable`);
  await theirs.getByRole('heading', { name: /There is no project "timetable"/ }).waitFor();
  await apart.close();
});

test('one sees where one is signed in, signs another browser out, and sets another password', async (t) => {
  const { service, page } = await openConsole(t);
  const apart = (await page.context().browser()?.newContext()) ?? assert.fail('no browser');
  const theirs = await apart.newPage();
  await signIn(theirs, service.origin, 'tomas', 'lune quay');
  await page.getByRole('link', { name: 'Tomas Revik' }).click();
  await page
    .getByRole('heading', { level: 1, name: 'You are Tomas Revik, and sign in as tomas.' })
    .waitFor();
  const sessions = page.getByRole('region', { name: 'Where you are signed in' });
  await sessions.getByRole('rowheader', { name: /this browser/ }).waitFor();
  await sessions.getByRole('button', { name: /^Sign out the browser of/ }).click();
  await sessions.getByRole('button').waitFor({ state: 'detached' });
  await theirs.goto(`${service.origin}/me`);
  await theirs.getByRole('heading', { name: 'Sign in to Vaquero' }).waitFor();

  const password = page.getByRole('region', { name: 'Password' });
  await password.getByLabel('The one that you have').fill('lune quay');
  await password.getByLabel(/^The new one/).fill('ferry to Orrin at nine');
  await password.getByRole('button', { name: 'Set it' }).click();
  await password.getByText('It is set. Every other browser is signed out; tokens stay.').waitFor();
  // Back where one was going.
  await theirs.getByLabel('Name').fill('tomas');
  await theirs.getByLabel('Password').fill('ferry to Orrin at nine');
  await theirs.getByRole('button', { name: 'Sign in' }).click();
  await theirs.waitForURL('**/me');
  await apart.close();
});

test('an operator makes a group and fills it; a project grants it a role; a service gets a token that is shown once', async (t) => {
  const { service, page } = await openConsole(t);
  await service.project('timetable');
  await service.person('noor', null);
  await page.goto(`${service.origin}/`);
  await page.getByRole('link', { name: 'People' }).click();
  await page.getByRole('heading', { level: 1, name: '3 people may do something here.' }).waitFor();
  await page.getByLabel('A new group, by name').fill('release-desk');
  await page.getByLabel('Called').fill('Release desk');
  await page.getByRole('button', { name: 'Make it' }).click();
  const group = page.getByRole('region', { name: 'Release desk', exact: true });
  await group.getByText('Nobody is in it.').waitFor();
  const name = group.getByLabel('Put into Release desk, by name');
  await name.fill('nobody-here');
  await group.getByRole('button', { name: 'Put in' }).click();
  await group.getByText(/There is no person "nobody-here"/).waitFor();
  await name.fill('noor');
  await group.getByRole('button', { name: 'Put in' }).click();
  await group.getByRole('listitem').filter({ hasText: 'noor' }).waitFor();

  await page.goto(`${service.origin}/p/timetable/settings/people`);
  const people = page.getByRole('region', { name: 'People' });
  await people.getByLabel('A person or group, by name').fill('release-desk');
  await people.getByLabel('As', { exact: true }).selectOption('releaser');
  await people.getByRole('button', { name: 'Give the role' }).click();
  const noor = people.getByRole('row').filter({ hasText: 'releaser, by release-desk' });
  await noor.waitFor();
  assert.equal(await noor.getByRole('button').count(), 0);

  await page.getByRole('link', { name: 'Programs' }).click();
  const programs = page.getByRole('region', { name: 'Programs' });
  await programs.getByText('No service yet.').waitFor();
  await programs.getByLabel('A new service, by name').fill('quay-board');
  await programs.getByLabel('Called', { exact: true }).fill('Quay board');
  await programs.getByRole('button', { name: 'Make it' }).click();
  const board = programs.getByRole('region', { name: 'Quay board' });
  await board.getByLabel('A token of Quay board, called').fill('behind the glass');
  await board.getByRole('button', { name: 'Make it' }).click();
  const secret = await board.getByRole('status').getByText(/^vaq/).textContent();
  const open = async () =>
    (
      await fetch(`${service.address}/api/projects/timetable`, {
        headers: { authorization: `Bearer ${secret}` },
      })
    ).status;
  assert.equal(await open(), 200);
  await board.getByRole('button', { name: 'End Quay board and its tokens' }).click();
  await board.waitFor({ state: 'detached' });
  assert.equal(await open(), 401);

  // What a group gives ends with it, after it was said.
  await page.goto(`${service.origin}/people`);
  await group.getByRole('button', { name: 'End Release desk…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText(/What it was granted ends for 1 person\./).waitFor();
  await sheet.getByRole('button', { name: 'End Release desk' }).click();
  await group.waitFor({ state: 'detached' });
});

test('an operator makes a link for who lost their password; it leads to another one and signs in', async (t) => {
  const { service, page } = await openConsole(t);
  await service.project('timetable');
  await service.person('noor', 'builder', 'timetable');
  await page.goto(`${service.origin}/people`);
  await page.getByRole('button', { name: 'Make a link for another password of noor' }).click();
  const link =
    (await page
      .getByRole('status')
      .getByText(/\/password#/)
      .textContent()) ?? '';
  const apart = (await page.context().browser()?.newContext()) ?? assert.fail('no browser');
  const theirs = await apart.newPage();
  await theirs.goto(link.trim());
  await theirs.getByRole('heading', { name: 'Another password for noor' }).waitFor();
  const field = theirs.getByLabel(/A password of at least 12 letters/);
  await field.fill('too short');
  await field.press('Enter');
  await theirs.getByText('This password has fewer than 12 letters.').waitFor();
  await field.fill('ferry to Orrin at nine');
  await field.press('Enter');
  await theirs.getByRole('link', { name: 'noor' }).waitFor();
  await theirs.goto(link.trim());
  await theirs.getByText('This link was used.').waitFor();
  await apart.close();
});
