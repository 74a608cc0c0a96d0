import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, mapRoutes, recipeRoutes } from '@vaquero/contracts';
import { startGitHost, startSshHost } from '@vaquero/standins';
import { execa } from 'execa';
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

  // The repository moves: another one is told as such, the same one is read from there.
  host.behave('open');
  const [strange, moved] = [await host.repository('signage'), await host.repository('sea')];
  await copy.git('push', '--quiet', moved.folder, 'main:season');
  const signs = await makeWorkingCopy(join(service.state, 'signs'));
  await signs.commit('Signs', { a: 'x' });
  await signs.git('push', '--quiet', strange.folder, 'main:season');
  await page.getByRole('button', { name: 'It has moved' }).press('Enter');
  const form = page.getByRole('form', { name: 'Another address' });
  await form.getByLabel('Its address').fill(strange.url);
  await form.getByLabel('Why, for whoever looks back').fill('The host was renamed');
  const send = form.getByRole('button', { name: 'Read it from there', disabled: false });
  await send.press('Enter');
  await form.getByText(/is another repository/).waitFor();
  await form.getByLabel(/^Another repository is meant/).waitFor();
  await form.getByLabel('Its address').fill(moved.url);
  await send.press('Enter');
  await page.getByRole('region', { name: 'Repository' }).getByText(moved.url).waitFor();
});

test('a project is made over SSH: the key is shown, the host compared, the recipe written otherwise, and nothing built before a push', async (t) => {
  const { service, page } = await openConsole(t);
  const host = await startSshHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = host.repository('crew-rota');
  await execa('git', ['init', '--quiet', '--bare', '--initial-branch=main', folder]);
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('Rota of week 49', {
    'rota/index.html': '<h1>Rota</h1>\n',
    'rota/package.json': '{}',
  });
  await copy.git('push', '--quiet', folder, 'main');
  await page.goto(`${service.origin}/new`);
  await page.getByLabel(/^Its name/).fill('crew-rota');
  await page.getByLabel('Its repository', { exact: true }).selectOption('http');
  await page.getByLabel('Its address').fill(url);
  const read = page.getByRole('button', { name: 'Read it', exact: true });
  assert.ok(await read.isDisabled());
  await page.getByRole('button', { name: 'Make a key for it' }).click();
  const line = page
    .getByRole('status')
    .locator('code')
    .filter({ hasText: /^ssh-ed25519 / });
  host.admit((await line.textContent()) ?? '');
  assert.ok(await read.isDisabled());
  await page.getByLabel(/^The host’s own key/).selectOption(await host.fingerprint());
  await read.click();
  await page.getByText('It can be read: 1 branch.').waitFor();
  await page.getByText(/Rota of week 49, by .*, as Git has it/).waitFor();
  await page.getByLabel('Folder in the repository').selectOption('rota');
  // What cannot be read is not taken; what was found comes back.
  const text = page.getByLabel('The recipe as text');
  await text.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('steps: 7');
  const make = page.getByRole('button', { name: 'Make crew-rota' });
  await page.getByText('The recipe cannot be read').waitFor();
  assert.ok(await make.isDisabled());
  await page.getByRole('button', { name: 'As it was found' }).click();
  await text.click();
  await page.keyboard.press('Control+Home');
  await page.keyboard.type('# By hand\n');
  // So is its first map; what it names has its address beside it while it is written.
  await page.getByRole('button', { name: 'Write the map otherwise' }).click();
  const map = page.getByLabel('The map as text');
  await map.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('map: crew-rota');
  await page.getByText('The map cannot be read').waitFor();
  assert.ok(await make.isDisabled());
  await page.getByRole('button', { name: 'The usual map' }).click();
  await page.getByRole('button', { name: 'Write the map otherwise' }).click();
  await map.click();
  await page.keyboard.press('Control+Home');
  await page.keyboard.type('# Ours\n');
  await page.getByText(/^http:\/\/staging\.crew-rota\./).waitFor();
  await page.getByLabel('What is built first').selectOption('next-push');
  await make.click();
  await page.waitForURL(`${service.origin}/p/crew-rota`);
  const params = { project: 'crew-rota' };
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, { params });
  assert.deepEqual(builds, []);
  const { accepted } = await service.operator.call(recipeRoutes.showRecipeRoute, { params });
  assert.equal(accepted?.version, 1);
  const set = await service.operator.call(mapRoutes.showMapRoute, { params });
  assert.match(set.text, /^# Ours\n/);

  // The host shows another key: that is said in Settings, where another key of ours takes the place of the first.
  await host.changeKey();
  await page.goto(`${service.origin}/p/crew-rota/settings`);
  const trouble = page.getByRole('alert').filter({ hasText: 'shows another key' });
  await trouble.waitFor();
  await page.getByRole('button', { name: 'Make a key for it' }).click();
  const shown = page
    .getByRole('status')
    .locator('code')
    .filter({ hasText: /^ssh-ed25519 / });
  host.admit((await shown.textContent()) ?? '');
  await page.getByLabel(/^The host’s own key/).selectOption(await host.fingerprint());
  await page.getByRole('button', { name: 'It is added: try it and keep it' }).click();
  await trouble.waitFor({ state: 'detached' });
  // How it is built is read-only there: it is changed by a commit where it lies.
  await page.goto(`${service.origin}/p/crew-rota/settings/building`);
  await page.getByText(/Its repository lies elsewhere/).waitFor();
});

test('a recipe is written otherwise in Settings and committed, and the text of a build’s own stands on its page', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await page.goto(`${service.origin}/p/timetable/settings/building`);
  await page.getByText('It stands in the repository as it is.').waitFor();
  const text = page.getByLabel('The recipe as text');
  await text.click();
  await page.keyboard.press('Control+Home');
  await page.keyboard.type('# Written in Settings\n');
  await page.getByLabel('What is to stand on the commit').fill('Say where it was written');
  await page.getByRole('button', { name: 'Commit it to main', disabled: false }).click();
  await page.getByText(/^It is committed as [0-9a-f]{7}, and built\./).waitFor();
  const built = await service.buildEnded('timetable', 2);
  assert.equal(built.commit.subject, 'Say where it was written');
  await page.goto(`${service.origin}/p/timetable/builds/2`);
  await page.getByText('as text', { exact: true }).click();
  await page.getByLabel('The recipe as text').getByText('out', { exact: false }).first().waitFor();
});
