import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { startGitHost } from '@vaquero/standins';
import { openConsole } from '../support/console.ts';
import { temporaryFolder } from '../support/place.ts';
import { makeWorkingCopy, recipeOf, writesPage } from '../support/working-copy.ts';

test('a project on a private repository is made by keyboard alone, and its token renewed in Settings', async (t) => {
  const { service, page } = await openConsole(t);
  await service.project('signage');
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = await host.repository('timetable');
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('by keyboard')) });
  await copy.git('push', '--quiet', folder, 'main:season', 'main:harbour');
  await copy.git('--git-dir', folder, 'symbolic-ref', 'HEAD', 'refs/heads/season');
  host.behave('private', { user: 'ferry-bot', token: 'low-water' });
  await page.goto(`${service.origin}/`);
  await page.getByRole('link', { name: 'Make a project' }).press('Enter');
  await page.getByRole('heading', { level: 1, name: /^What is it called/ }).waitFor();
  // Its address is one to keep: it opens there, too.
  await page.reload();

  // A taken name is told while typing, with free ones beside it; where it will answer is there before it is made.
  const name = page.getByLabel(/^Its name/);
  await name.focus();
  await page.keyboard.type('signage');
  await page.getByRole('button', { name: 'signage-site' }).waitFor();
  assert.ok(await page.getByRole('button', { name: 'Make signage' }).isDisabled());
  await page.keyboard.press('Control+a');
  await page.keyboard.type('timetable');
  await page.getByText(/^http:\/\/staging\.timetable\./).waitFor();

  const kind = page.getByLabel('Its repository', { exact: true });
  await kind.focus();
  await page.keyboard.type('at an');
  await page.getByLabel('Its address').focus();
  await page.keyboard.type(url);
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await page.getByText(/does not let Vaquero read it/).waitFor();
  await page.getByLabel(/^It is private/).press('Space');
  const user = page.getByLabel('Name', { exact: true });
  await user.focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('ferry-bot');
  await page.keyboard.press('Tab');
  await page.keyboard.type('low-water');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await page.getByText('It can be read: 2 branches.').waitFor();
  // The branch that clones of it stand on is chosen already.
  assert.equal(await page.getByLabel(/^Its own branch/).inputValue(), 'season');
  await page.getByRole('button', { name: 'Make timetable', disabled: false }).press('Enter');
  await page.waitForURL(`${service.origin}/p/timetable`);
  assert.equal((await service.buildEnded('timetable', 1)).state, 'passed');

  // Its token is renewed where the project is set up; what does not open it is not kept.
  await page.goto(`${service.origin}/p/timetable/settings`);
  await page.getByText(/is read as ferry-bot, with a token that Tomas Revik set/).waitFor();
  const token = page.getByLabel(/^Token, kept sealed/);
  await token.fill('high-water');
  await token.press('Enter');
  await page.getByText(/does not let Vaquero read it/).waitFor();
  host.behave('private', { user: 'ferry-bot', token: 'high-water' });
  await page.getByRole('button', { name: 'Try and keep it', disabled: false }).press('Enter');
  await page.waitForFunction(
    () => document.querySelector<HTMLInputElement>('input[type=password]')?.value === '',
  );
  // A key pressed at a control that is shut goes nowhere: what was set is shown first.
  await page.getByRole('button', { name: 'Try and keep it', disabled: true }).waitFor();
  await page.getByRole('button', { name: 'Take it back', disabled: false }).press('Enter');
  await page.getByText(/is read without a token/).waitFor();
});
