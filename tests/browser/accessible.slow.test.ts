import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { pullRequestRoutes } from '@vaquero/contracts';
import { faultsOf } from '../support/auditor.ts';
import { openConsole } from '../support/console.ts';
import type { TestService } from '../support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from '../support/working-copy.ts';

/** A project with something on every page: two builds that passed, one that failed, a roll back, a hold. */
async function story(service: TestService): Promise<void> {
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  await made.push('Search by harbour', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await service.promote('timetable');
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'dogs');
  await fork.commit('Dogs at half fare', { 'fares.txt': '1.5' });
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch: 'dogs', title: 'Dogs', place: fork.folder },
  });
  await made.push('A slip', {
    'vaquero.yaml': recipeOf("echo reading; echo 'Error: unknown harbour' >&2; exit 4"),
  });
  // One of the project's own, with a preview, that merges after what it is asked to.
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay', 'HEAD~1');
  await made.copy.commit('The quay', { 'quay.txt': 'quay' });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch: 'try/quay', title: 'The quay' },
  });
}

const pages = [
  ['/', /./],
  ['/p/timetable', /./],
  ['/p/timetable?at=2026-01-01T00:00:00Z', /./],
  ['/p/timetable/builds', /./],
  ['/p/timetable/builds/2', /Build 2/],
  ['/p/timetable/builds/3', /Build 3 failed/],
  ['/p/timetable/history', /changed/],
  ['/p/timetable/visits', /./],
  ['/p/timetable/visits/staging', /./],
  ['/p/timetable/settings', /is built from/],
  ['/p/timetable/settings/building', /follow/],
  ['/p/timetable/settings/values', /are given/],
  ['/p/timetable/settings/people', /may do what/],
  ['/p/timetable/settings/programs', /Programs/],
  ['/p/timetable/settings/end', /can be ended/],
  ['/p/timetable/pull-requests', /pr-1 waits/],
  ['/p/timetable/pull-requests/previews', /preview/],
  ['/p/timetable/compare/1/2', /From build 1/],
  ['/new', /What is it called/],
  ['/p/timetable/pr-1', /pr-1 waits/],
  ['/p/timetable/pr-2', /pr-2/],
  ['/p/timetable/map', /goes to staging/],
  ['/p/timetable/map/reach?why=main', /can change what production serves/],
  ['/me', /You are/],
  ['/people', /may do something here/],
  ['/machines', /are heard of|is silent/],
  ['/admit?host=nowhere.example', /cannot be opened/],
  ['/join#none', /invitation/],
] as const;

for (const colorScheme of ['light', 'dark'] as const) {
  test(`every page passes an audit of its contrast, names and roles: ${colorScheme}`, async (t) => {
    const { service, page } = await openConsole(t, { colorScheme });
    await story(service);
    for (const [path, heading] of pages) {
      await page.goto(service.origin + path);
      await page.getByRole('heading', { level: 1, name: heading }).waitFor();
      assert.deepEqual(await faultsOf(page), [], path);
    }
    // What opens over a page counts as well.
    await page.goto(`${service.origin}/p/timetable`);
    await page.locator('.right').first().getByRole('button', { name: 'Roll back…' }).click();
    await page.getByRole('dialog').waitFor();
    assert.deepEqual(await faultsOf(page), [], 'the sheet of a roll back');
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.keyboard.press('/');
    await page.locator(':focus[type=search], :focus[role=combobox]').waitFor();
    await page.keyboard.type('harbour');
    await page.getByRole('option').first().waitFor();
    assert.deepEqual(await faultsOf(page), [], 'what was found');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'The same as a table' }).click();
    await page.getByRole('columnheader', { name: 'what it brought' }).waitFor();
    assert.deepEqual(await faultsOf(page), [], 'the lanes as a table');
    // The auditor sees what is wrong when something is.
    await page.evaluate(() => {
      const button = document.createElement('button');
      button.style.color = 'rgb(128 128 128 / 0.3)';
      document.querySelector('main')?.append(button, 'pale');
    });
    assert.match((await faultsOf(page)).join('\n'), /^button-name: /m);
  });
}

test('on a phone, at half a screen and at 200 % nothing scrolls sideways on any page', async (t) => {
  const { service, page } = await openConsole(t);
  await story(service);
  for (const width of [390, 640, 900, 1199]) {
    await page.setViewportSize({ width, height: 800 });
    for (const [path, heading] of pages) {
      await page.goto(service.origin + path);
      await page.getByRole('heading', { level: 1, name: heading }).waitFor();
      const wide = await page.evaluate(() => document.documentElement.scrollWidth);
      assert.ok(wide <= width, `${path} is ${wide} px wide at ${width}`);
    }
  }
});

test('whoever asks for less motion gets none', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await page.goto(`${service.origin}/p/timetable/builds/1`);
  const pushed = made.push('One', { 'vaquero.yaml': recipeOf(`sleep 3; ${writesPage('one')}`) });
  await page.getByRole('heading', { level: 1, name: /running|runs/i }).waitFor();
  assert.equal(await page.evaluate(() => document.getAnimations().length), 0);
  await page.emulateMedia({ reducedMotion: 'no-preference' });
  await page.goto(`${service.origin}/p/timetable/builds/1`);
  await page.getByRole('heading', { level: 1, name: /running|runs/i }).waitFor();
  assert.ok(
    (await page.evaluate(() => document.getAnimations().length)) > 0,
    'else a quarter turns',
  );
  await pushed;
});

test('the keyboard reaches every act of the lanes in reading order, and what has the focus is seen', async (t) => {
  const { service, page } = await openConsole(t);
  await story(service);
  await page.goto(`${service.origin}/p/timetable`);
  await page
    .getByRole('button', { name: 'Promote…' })
    .or(page.getByText('Roll back…').first())
    .first()
    .waitFor();
  const seen: string[] = [];
  for (let count = 0; count < 40; count += 1) {
    await page.keyboard.press('Tab');
    const at = await page.evaluate(() => {
      const element = document.activeElement;
      if (!(element instanceof HTMLElement) || element === document.body) return null;
      const style = getComputedStyle(element);
      const isShown = Number.parseFloat(style.outlineWidth) >= 2 && style.outlineStyle !== 'none';
      const name = element.getAttribute('aria-label') ?? element.textContent ?? '';
      return { name: name.trim().slice(0, 40), isShown };
    });
    if (at === null) break;
    assert.ok(at.isShown, `the focus on “${at.name}” is not seen`);
    seen.push(at.name);
  }
  const order = [
    'Vaquero, all projects',
    'Find a build',
    'Lanes over 7 days',
    'Roll back…',
    'The same as a table',
    'Builds',
  ];
  const places = order.map((name) => seen.findIndex((one) => one.startsWith(name)));
  assert.ok(!places.includes(-1), `${order[places.indexOf(-1)]} is not among ${seen.join(' | ')}`);
  assert.deepEqual(
    places,
    places.toSorted((a, b) => a - b),
  );
});
