import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';
import { until } from '../support/place.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('an instant is pinned by keyboard, stands in the address, and what was live then comes back', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await service.promote('timetable');
  await page.goto(`${service.origin}/p/timetable`);
  const chart = page.getByRole('region', { name: /Lanes over 7 days/ });
  const table = page.getByRole('region', { name: 'What was live' });
  await table.getByRole('heading', { name: 'What is live now' }).waitFor();
  assert.equal(await table.getByRole('button').count(), 0);
  await chart.focus();
  await chart.getByText('now', { exact: true }).waitFor();
  // The newest deploy of all, production's second, then staging's second: production served One.
  await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('Shift+ArrowLeft');
  // The flag of an instant that is nearly now stands in the place of that word.
  await chart.getByText('now', { exact: true }).waitFor({ state: 'detached' });
  await page.keyboard.press('Enter');
  await page.waitForURL(/[?&]at=\d{4}-\d\d-\d\dT/);
  // A page that is loaded anew shows the same instant.
  await page.reload();
  const production = table.getByRole('row', { name: /production/ });
  await production.getByText('One', { exact: true }).waitFor();
  await production.getByRole('button', { name: 'Roll back to this…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText('It undoes 1 deploy and holds production').waitFor();
  await sheet.getByLabel(/Why\?/).fill('Two has no prices.');
  await sheet.getByRole('button', { name: 'Roll back to 1' }).click();
  await page
    .getByRole('heading', { level: 1, name: /Production is held .* serves build 1/ })
    .waitFor();
  assert.equal(
    (await service.page(`timetable.localhost:${service.edgePort}`)).text,
    '<h1>one</h1>',
  );
  await sheet.waitFor({ state: 'detached' });
  await chart.focus();
  await page.keyboard.press('Escape');
  await table.getByRole('heading', { name: 'What is live now' }).waitFor();
  assert.equal(new URL(page.url()).search, '');
});

test('where the page is narrow the threads go on behind the words between two lanes', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  /** Where threads pass through words that are shown. */
  const through = () =>
    page
      .locator('.through line')
      .evaluateAll((lines) =>
        lines
          .filter((line) => getComputedStyle(line.parentElement ?? line).display !== 'none')
          .map((line) => line.getBoundingClientRect().left),
      );
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`${service.origin}/p/timetable`);
  await page.getByRole('heading', { level: 1, name: /serve the same bytes/ }).waitFor();
  assert.deepEqual(await through(), [], 'beside the lanes no thread passes');
  for (const [width, count] of [
    [1000, 1],
    [700, 2],
  ] as const) {
    await page.setViewportSize({ width, height: 800 });
    await until(`${count} pieces at ${width} px`, async () => (await through()).length === count);
    // Lanes and words are laid out anew after a change of width, each in a frame of its own.
    await until(`the pieces stand below their threads at ${width} px`, async () => {
      const [at = 0] = await through();
      const thread = page.locator('.mid line.thread').first();
      const above = await thread.evaluate((line) => line.getBoundingClientRect().left);
      return Math.abs(at - above) < 1;
    });
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    assert.ok(wide <= width, 'nothing makes the page scroll sideways');
  }
});

test('an act on an old view is refused where it was tried, with what changed', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await page.goto(`${service.origin}/p/timetable`);
  // The page is cut off from news, as on a bad line, and somebody else promotes meanwhile.
  await page.getByRole('button', { name: 'Promote…' }).click();
  await page.route('**/lanes?*', (route) => route.abort());
  await service.promote('timetable');
  await page.getByRole('button', { name: 'Promote 1 to production' }).click();
  await page
    .getByRole('dialog')
    .getByRole('alert')
    .getByText(/production changed since you looked: it served nothing/)
    .waitFor();
});

test('a failing build shows its log as it comes, then the telling line first', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('Good', { 'vaquero.yaml': recipeOf(writesPage('x')) });
  await page.goto(`${service.origin}/p/timetable/builds/2`);
  const pushed = made.push('Bad', {
    'vaquero.yaml': recipeOf(
      "echo reading the tides; sleep 2; echo 'Error: unknown harbour'; exit 4",
    ),
    'data.json': '{}',
  });
  await page
    .getByRole('log')
    .getByText('reading the tides', { exact: true })
    .waitFor({ timeout: 20_000 })
    .catch(async () => {
      await page.reload();
      await page.getByRole('log').getByText('reading the tides', { exact: true }).waitFor();
    });
  await page.getByRole('heading', { level: 1, name: 'Build 2 failed: unknown harbour' }).waitFor();
  await pushed;
  const cause = page.getByRole('region', { name: 'Why it failed' });
  await cause.getByText('Step pages ended with exit code 4.').waitFor();
  await cause.getByText('data.json').waitFor();
  await page.getByRole('img', { name: /^pages failed/ }).waitFor();
  await page.goto(`${service.origin}/p/timetable/builds`);
  await page.getByRole('row', { name: /^2 failed/ }).waitFor();
});

test('the same as a table, by keyboard, and in words for a screen reader', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  await page.goto(`${service.origin}/p/timetable`);
  const band = page.locator('[data-band="1"]').first();
  assert.match(
    (await band.getAttribute('aria-label')) ?? '',
    /^build 1, \w+ \w+ on \w+, \w{3} \d+ \w{3} \d\d:\d\d to now: One$/,
  );
  await page
    .getByRole('region', { name: /Lanes over 7 days/ })
    .first()
    .focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await page.getByRole('heading', { name: /What was live at/ }).waitFor();
  await page.keyboard.press('Escape');
  await page.getByRole('heading', { name: /What is live/ }).waitFor();
  await page.getByRole('button', { name: 'The same as a table' }).click();
  await page.getByRole('row', { name: /production 1 .* One .* promoted ines/ }).waitFor();
  // Every control that can be pressed has a name.
  const nameless = await page
    .locator('button, a')
    .evaluateAll(
      (all) =>
        all.filter((one) => (one.getAttribute('aria-label') ?? one.textContent ?? '').trim() === '')
          .length,
    );
  assert.equal(nameless, 0);
});

test('on a phone nothing scrolls sideways, the chart is turned and the act is large enough for a thumb', async (t) => {
  const { service, page } = await openConsole(t, { width: 390, colorScheme: 'dark' });
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  for (const path of [
    '/',
    '/p/timetable',
    '/p/timetable/builds',
    '/p/timetable/builds/1',
    '/p/timetable/history/staging',
    ...['', '/building', '/values', '/people', '/programs', '/end'].map(
      (one) => `/p/timetable/settings${one}`,
    ),
  ]) {
    await page.goto(service.origin + path);
    await page.getByRole('heading', { level: 1 }).first().waitFor();
    const [scroll, width] = await page.evaluate(() => [
      document.documentElement.scrollWidth,
      window.innerWidth,
    ]);
    assert.ok((scroll ?? 0) <= (width ?? 0), `${path} is ${scroll} wide`);
  }
  await page.goto(`${service.origin}/p/timetable`);
  await page.getByRole('region', { name: /now on top/ }).waitFor();
  const ground = await page
    .locator('html')
    .evaluate((html) => getComputedStyle(html).backgroundColor);
  assert.equal(ground, 'rgb(26, 23, 21)', 'dark, as the reader’s system asks');
});

test('a wrong password is refused in words, and pages ask for signing in', async (t) => {
  const { service, page } = await openConsole(t);
  const stranger = (await page.context().browser()?.newPage()) ?? assert.fail('no browser');
  await stranger.goto(`${service.origin}/p/timetable`);
  await stranger.waitForURL('**/sign-in?then=%2Fp%2Ftimetable');
  await stranger.getByLabel('Name').fill('tomas');
  await stranger.getByLabel('Password').fill('wrong');
  await stranger.getByRole('button', { name: 'Sign in' }).click();
  await stranger
    .getByRole('alert')
    .getByText('Name and password do not belong together.')
    .waitFor();
});
