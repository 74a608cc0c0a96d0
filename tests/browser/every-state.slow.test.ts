import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import test from 'node:test';
import { addPerson, grantInProject } from '@vaquero/service';
import type { BrowserContext, Page } from 'playwright-core';
import { signIn } from '../../tools/browser.mjs';
import { faultsOf } from '../support/auditor.ts';
import { openConsole } from '../support/console.ts';
import { pages, story } from '../support/console-pages.ts';

const paths = pages.map(([path]) => path);
const ofProject = paths.filter((path) => path.startsWith('/p/timetable'));
const calls = '**/api/**';
/** Pages that ask nothing before somebody acts: neither loading nor failed. */
const asksNothing = /^\/(?:new|join|password|mail|sign-in|admit)\b/;
/** Calls by which a page knows who looks at it: without them it is no page of its own. */
const frame = /\/api\/(?:me|session|events)\b/;

test('every page of the console is among those that are audited', () => {
  const source = readFileSync(new URL('packages/console/src/main.tsx', `file://${process.cwd()}/`));
  const routes = [...String(source).matchAll(/path: '(\/[^'*]*)'/g)].map(([, path]) => path ?? '');
  assert.ok(routes.length > 20);
  for (const route of routes.filter((one) => one !== '/sign-in')) {
    const like = new RegExp(`^${route.replace(/:\w+/g, '[^/?#]+')}(?:[?#]|$)`);
    assert.ok(
      paths.some((path) => like.test(path)),
      `${route} is looked at by nobody`,
    );
  }
});

/** Audits a page wide and narrow. */
async function audit(page: Page, what: string): Promise<void> {
  for (const width of [1280, 390]) {
    await page.setViewportSize({ width, height: 800 });
    assert.deepEqual(await faultsOf(page), [], `${what} at ${width}`);
  }
}

/** Does something with each of many, four side by side. */
async function each<T>(all: readonly T[], work: (one: T) => Promise<void>): Promise<void> {
  const left = [...all];
  const worker = async (): Promise<void> => {
    for (let one = left.shift(); one !== undefined; one = left.shift()) await work(one);
  };
  await Promise.all([worker(), worker(), worker(), worker()]);
}

/** A tab whose calls wait until they are let go, and then find nobody. */
async function heldTab(context: BrowserContext, url: string) {
  const tab = await context.newPage();
  let letGo = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await tab.route(calls, async (route) => {
    if (frame.test(route.request().url())) return route.continue();
    await held;
    await route.abort();
  });
  await tab.goto(url);
  return { tab, letGo };
}

for (const colorScheme of ['light', 'dark'] as const) {
  test(`pages pass the audit empty, refused, shut, loading and failed, too: ${colorScheme}`, async (t) => {
    const { service, page } = await openConsole(t, { colorScheme });
    await page.goto(service.origin);
    await page.getByRole('heading', { level: 1 }).waitFor();
    await audit(page, 'no project');
    await service.project('signage');
    const empty = ofProject.filter((path) => !/\d/.test(path));
    for (const path of empty) {
      await page.goto(service.origin + path.replace('timetable', 'signage'));
      await page.getByRole('heading', { level: 1 }).waitFor();
      await audit(page, `${path}, empty`);
    }
    for (const path of ofProject) {
      await page.goto(service.origin + path.replace('timetable', 'nobodys'));
      await page.getByRole('heading', { level: 1, name: /There is no/ }).waitFor();
      await audit(page, `${path}, refused`);
    }
    await story(service);
    const context = page.context();
    await each(
      paths.filter((path) => !asksNothing.test(path)),
      async (path) => {
        const { tab, letGo } = await heldTab(context, service.origin + path);
        const reading = tab.getByRole('status').filter({ hasText: /^reading / });
        await reading
          .or(tab.getByRole('heading', { level: 1 }))
          .first()
          .waitFor();
        await audit(tab, `${path}, loading`);
        letGo();
        await reading.first().waitFor({ state: 'detached', timeout: 60_000 });
        await tab.getByRole('heading', { level: 1 }).or(tab.getByRole('alert')).first().waitFor();
        await audit(tab, `${path}, failed`);
        await tab.close();
      },
    );
    // Whoever may less sees what is shut, and why.
    const bo = { name: 'bo', shownAs: 'Bo', password: 'quay of lune', role: null };
    const personId = await addPerson(service.deps, bo);
    await grantInProject(service.deps, { personId, project: 'timetable', role: 'reader' });
    await context.clearCookies();
    await signIn(page, service.origin, 'bo', 'quay of lune');
    for (const path of paths) {
      await page.goto(service.origin + path);
      await page.getByRole('heading', { level: 1 }).waitFor();
      await audit(page, `${path}, of a reader`);
    }
  });
}
