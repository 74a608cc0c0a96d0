import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { pullRequestRoutes } from '@vaquero/contracts';
import { addPerson, grantInProject } from '@vaquero/service';
import { signIn } from '../../tools/browser.mjs';
import { openConsole } from '../support/console.ts';
import { changeMap } from '../support/maps.ts';
import { until } from '../support/place.ts';
import { makeWorkingCopy, recipeOf, writesPage } from '../support/working-copy.ts';

const forPulls = 'for: {branch: main, proposed-into: main}\n';

test('an outsider’s commit waits on its page, is built on a word given there, and waits again for the next', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  const recipe = recipeOf(writesPage('one'), forPulls);
  await made.push('First', { 'vaquero.yaml': recipe });
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'dogs');
  await fork.commit('Dogs at half fare', { 'fares.txt': '1.5\n' });
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch: 'dogs', title: 'Dogs <travel>', place: fork.folder },
  });

  await page.goto(`${service.origin}/p/timetable`);
  await page.getByRole('heading', { level: 1 }).waitFor();
  await page.keyboard.press('p');
  await page.getByRole('heading', { level: 1, name: 'pr-1 waits for a member’s word.' }).waitFor();
  await page.getByText('Dogs <travel>').waitFor();
  await page.getByRole('link', { name: 'pr-1' }).click();
  await page.waitForURL('**/p/timetable/pr-1');
  const brings = page.getByRole('region', { name: 'What it brings' });
  await brings.getByText('fares.txt').waitFor();
  await page.getByRole('button', { name: 'Build this commit…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText(/is given no variable or secret/).waitFor();
  await sheet.getByRole('button', { name: 'Build this commit' }).click();
  await sheet.waitFor({ state: 'detached' });
  await page
    .getByRole('heading', { level: 1, name: /pr-1 .*builds; nothing of it is live anywhere/ })
    .waitFor();
  await page.getByText('Built on the word of Tomas Revik').waitFor();

  // The next commit is seen by polling; the page follows by itself.
  await fork.commit('Dogs at a fare of their own', { 'fares.txt': '2.5\n' });
  await page.getByRole('heading', { level: 1, name: /pr-1 waits/ }).waitFor();
  await page.getByRole('region', { name: 'Builds' }).getByRole('link').click();
  await page.getByText(/to be merged into main; code of an outsider/).waitFor();

  const reader = await addPerson(service.deps, {
    name: 'petra',
    shownAs: 'Petra Quist',
    password: 'far holm',
    role: null,
  });
  await grantInProject(service.deps, { personId: reader, project: 'timetable', role: 'reader' });
  const theirs = (await page.context().browser()?.newPage()) ?? assert.fail('no browser');
  await signIn(theirs, service.origin, 'petra', 'far holm');
  await theirs.goto(`${service.origin}/p/timetable/pr-1`);
  await theirs.getByText('a builder of this project may').waitFor();
  assert.equal(await theirs.getByRole('button', { name: 'Build this commit…' }).isDisabled(), true);
  await theirs.close();
});

test('a pull request is closed, opened again, and merged from its page; its preview is ended by hand', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay');
  await made.copy.commit('Quay', { 'vaquero.yaml': recipeOf(writesPage('quay')) });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch: 'try/quay', title: 'The quay' },
  });
  await until('its preview is live', async () => {
    const preview = await service.environmentOf('timetable', 'pr-1').catch(() => null);
    return preview?.serves?.confirmedAt != null;
  });
  await page.goto(`${service.origin}/p/timetable/pr-1`);
  const heading = (name: RegExp) => page.getByRole('heading', { level: 1, name }).waitFor();
  await heading(/^pr-1 .*is live in its preview/);

  await page.getByRole('button', { name: 'Close…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText(/pr-1 ends after its time/).waitFor();
  await sheet.getByRole('button', { name: 'Close pr-1' }).click();
  await heading(/^pr-1 is closed/);
  // The page hears that it is open again before the reply of the press: that one shuts no sheet opened since.
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route('**/reopen', async (route) => {
    const answer = await route.fetch();
    await held;
    await route.fulfill({ response: answer });
  });
  await page.getByRole('button', { name: 'Open again' }).click();
  await heading(/^pr-1 .*is live in its preview/);

  // Into a branch that is not there: refused in the sheet, which stays.
  await page.getByRole('button', { name: 'Into another branch…' }).click();
  await sheet.getByLabel('A branch that is there').waitFor();
  const told = page.waitForResponse('**/reopen');
  letGo();
  await (await told).finished();
  await sheet.getByLabel('A branch that is there').fill('nowhere');
  await sheet.getByRole('button', { name: 'Into nowhere' }).click();
  await sheet
    .getByText(/nowhere/)
    .last()
    .waitFor();
  await sheet.getByRole('alert').waitFor();
  await page.keyboard.press('Escape');

  const merge = page.getByRole('region', { name: 'Merge' });
  await merge.getByText('staging takes the bytes of build 2, without a build.').waitFor();
  await merge.getByRole('button', { name: 'Merge…' }).click();
  await sheet.getByRole('button', { name: 'Merge pr-1' }).click();
  await heading(/^pr-1 is merged/);

  await page.getByRole('button', { name: 'End… pr-1' }).click();
  await sheet.getByRole('button', { name: 'End pr-1' }).click();
  await page.getByRole('region', { name: 'Preview' }).waitFor({ state: 'detached' });
  // It stands among those that ended, with the way to what it served.
  await page.goto(`${service.origin}/p/timetable/pull-requests/previews`);
  const ended = page.getByRole('region', { name: 'Ended lately' });
  await ended.getByText('Somebody ended it: Tomas Revik.').waitFor();
  await ended.getByRole('link', { name: 'pr-1' }).click();
  await heading(/^Pr-1 changed/);
});

test('what waits for a word is let in from its lane', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await changeMap(service, 'timetable', (text) =>
    text.replace('follows: {branch: main}', 'follows: {branch: main}, enters: on-word'),
  );
  await made.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.push(made.remote);
  await until('it is offered', async () => {
    const { waits } = await service.environmentOf('timetable', 'staging');
    return waits.kind === 'offer';
  });
  await page.goto(`${service.origin}/p/timetable`);
  await page
    .getByRole('heading', { level: 1, name: /^Build 1 .*waits for a word to go to staging\.$/ })
    .waitFor();
  await page.getByRole('button', { name: 'Let in…' }).click();
  const sheet = page.getByRole('dialog', { name: 'Let build 1 in to staging?' });
  await sheet.getByRole('button', { name: 'Let 1 in' }).click();
  await page.getByRole('heading', { level: 1, name: /^Build 1 .*can go to production/ }).waitFor();
  await page.goto(`${service.origin}/p/timetable/history/staging`);
  await page.getByRole('cell', { name: 'let in' }).waitFor();
});
