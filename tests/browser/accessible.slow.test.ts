import assert from 'node:assert/strict';
import test from 'node:test';
import { faultsOf } from '../support/auditor.ts';
import { openConsole } from '../support/console.ts';
import { pages, story } from '../support/console-pages.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

/** A desk, its half at 200 %, a tablet, a phone. */
const widths = [390, 640, 768, 1280] as const;

for (const colorScheme of ['light', 'dark'] as const) {
  test(`every page passes an audit of its contrast, names and roles: ${colorScheme}`, async (t) => {
    const { service, page } = await openConsole(t, { colorScheme });
    await story(service);
    for (const [path, heading] of pages) {
      await page.goto(service.origin + path);
      await page.getByRole('heading', { level: 1, name: heading }).waitFor();
      for (const width of widths) {
        await page.setViewportSize({ width, height: 800 });
        assert.deepEqual(await faultsOf(page), [], `${path} at ${width}`);
      }
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
