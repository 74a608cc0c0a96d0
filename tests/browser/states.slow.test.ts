import assert from 'node:assert/strict';
import test from 'node:test';
import { variableRoutes } from '@vaquero/contracts';
import { addPerson, grantInProject } from '@vaquero/service';
import { signIn } from '../../tools/browser.mjs';
import { openConsole } from '../support/console.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

const pages = [
  '',
  '/builds',
  '/history',
  '/visits',
  '/pull-requests',
  '/settings',
  '/settings/building',
  '/settings/values',
  '/builds/1',
  '/pr-1',
];

test('every page is loading, empty, refused, failed and stale in words', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  const at = (path: string) => `${service.origin}/p/timetable${path}`;

  await t.test('empty: each says what will stand there', async () => {
    for (const [path, says] of [
      ['/builds', /What is pushed to the branch is built/],
      ['/history', /Its first deploy will stand here/],
      ['/pull-requests', /What is proposed to be merged stands here/],
      ['/settings/values', /None is set yet/],
      ['/visits', /has served nothing yet/],
    ] as const) {
      await page.goto(at(path));
      await page.getByText(says).first().waitFor();
    }
  });

  await t.test('what is not there has no tabs, and names no command of the terminal', async () => {
    for (const path of pages) {
      await page.goto(`${service.origin}/p/nobodys${path}`);
      await page.getByRole('heading', { name: /There is no project "nobodys"/ }).waitFor();
      assert.equal(await page.getByRole('navigation', { name: 'Pages' }).count(), 0, path);
      assert.doesNotMatch((await page.locator('#root').textContent()) ?? '', /vaquero [a-z]/, path);
    }
    await page.goto(at('/builds/99'));
    await page.getByRole('heading', { name: /There is no build "99"/ }).waitFor();
    assert.equal(await page.getByRole('navigation', { name: 'Pages' }).count(), 1);
  });

  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });

  const context = page.context();
  const calls = '**/api/projects/timetable/**';

  await t.test(
    'loading says what is read; a failure says so, and reads again on request',
    async () => {
      // Each page in a tab of its own: a call that finds nobody is tried again for some seconds.
      const look = async (path: string): Promise<void> => {
        const tab = await context.newPage();
        let letGo = (): void => undefined;
        const held = new Promise<void>((resolve) => {
          letGo = resolve;
        });
        await tab.route(calls, async (route) => {
          await held;
          await route.abort();
        });
        await tab.goto(at(path));
        await tab
          .getByRole('status')
          .filter({ hasText: /^reading .*, \d+ s$/ })
          .waitFor();
        letGo();
        const alert = tab.getByRole('alert').filter({ hasText: 'The service does not answer.' });
        await alert.first().waitFor({ timeout: 40_000 });
        await tab.unrouteAll();
        await tab.getByRole('button', { name: 'Try now' }).first().click();
        await alert.first().waitFor({ state: 'detached' });
        await tab.getByRole('heading', { level: 1 }).waitFor();
        await tab.close();
      };
      await Promise.all(pages.filter((path) => path !== '/pr-1').map(look));
    },
  );

  await t.test('stale: what is shown stays, and says when it was read', async () => {
    const tabs = await Promise.all(
      (
        [
          ['/builds', /Build 1 passed/],
          ['/history', /has served nothing/],
          ['/settings/values', /Builds are given/],
          ['/builds/1', /Build 1 passed/],
        ] as const
      ).map(async ([path, name]) => {
        const tab = await context.newPage();
        await tab.goto(at(path));
        const heading = tab.getByRole('heading', { level: 1, name });
        await heading.waitFor();
        await tab.waitForLoadState('networkidle');
        await tab.route(calls, (route) => route.abort());
        return { tab, heading };
      }),
    );
    // Anything that is decided has every page ask again.
    await service.operator.call(variableRoutes.setVariableRoute, {
      params: { project: 'timetable', variable: 'TIDE' },
      query: { environment: '' },
      body: { kind: 'plain', value: 'high' },
    });
    for (const { tab, heading } of tabs) {
      await tab
        .getByText(/What follows was read at \d\d:\d\d:\d\d UTC/)
        .waitFor({ timeout: 40_000 });
      assert.ok(await heading.isVisible());
      await tab.close();
    }
  });

  await t.test('what is not allowed is shown shut, with the reason', async () => {
    const id = await addPerson(service.deps, {
      name: 'bo',
      shownAs: 'Bo',
      password: 'quay of lune',
      role: null,
    });
    await grantInProject(service.deps, { personId: id, project: 'timetable', role: 'builder' });
    await page.context().clearCookies();
    await signIn(page, service.origin, 'bo', 'quay of lune');
    await page.goto(at('/settings'));
    await page.getByText('This takes a maintainer of timetable.').first().waitFor();
    await page.goto(at('/settings/values'));
    await page.getByRole('button', { name: 'Set it' }).waitFor();
    assert.ok(await page.getByRole('button', { name: 'Set it' }).isDisabled());
    await page
      .getByText(/maintainer/)
      .first()
      .waitFor();
    for (const box of await page.getByRole('checkbox').all()) assert.ok(await box.isDisabled());
  });

  await t.test('a question mark lists the keys, and Escape gives the focus back', async () => {
    await page.goto(at('/builds'));
    const link = page.getByRole('link', { name: '1', exact: true });
    await link.focus();
    await page.keyboard.press('?');
    const keys = page.getByRole('dialog', { name: 'Keys' });
    await keys.waitFor();
    assert.match((await keys.textContent()) ?? '', /History/);
    await page.keyboard.press('Escape');
    await keys.waitFor({ state: 'detached' });
    assert.ok(await link.evaluate((one) => one === document.activeElement));
  });
});
