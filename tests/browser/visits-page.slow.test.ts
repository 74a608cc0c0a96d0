import assert from 'node:assert/strict';
import test from 'node:test';
import { visitRoutes } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { until } from '../support/place.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('what visitors get stands beside the lanes and on a page of its own, what was lost first', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('With the old page', {
    'vaquero.yaml': recipeOf(`${writesPage('one')}\nprintf old > out/old.html`),
  });
  await made.push('Without it', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  const host = `staging.timetable.localhost:${service.edgePort}`;
  for (const path of ['/', '/old', '/old', '/nowhere']) await service.page(host, path);
  await until('the edge has told', async () => {
    const seen = await service.operator.call(visitRoutes.showVisitsRoute, {
      params: { project: 'timetable', environment: 'staging' },
    });
    return seen.live?.requests === 4;
  });
  await page.goto(`${service.origin}/p/timetable`);
  const line = page.getByRole('link', { name: /4 requests\s+in the last hour\s*, 3 in vain/ });
  await line.click();
  await page
    .getByRole('heading', { level: 1, name: /^One path that the deploy before answered/ })
    .waitFor();
  assert.match(page.url(), /\/p\/timetable\/visits\/staging$/);
  const lost = page.getByRole('listitem').filter({ hasText: '/old' });
  assert.match((await lost.textContent()) ?? '', /2 ×.*\/old.*the deploy before answered it/);
  const [live, before] = await page.getByRole('row').filter({ hasText: 'build' }).allTextContents();
  assert.match(live ?? '', /^2 build 2.*75 %/);
  assert.match(before ?? '', /^1 build 1/);
  // Production serves nothing yet, and says so; the key of the page leads there.
  await page.keyboard.press('v');
  await page
    .getByRole('heading', { level: 1, name: 'Production has served nothing yet.' })
    .waitFor();
});
