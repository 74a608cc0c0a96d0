import assert from 'node:assert/strict';
import test from 'node:test';
import { openConsole } from '../support/console.ts';
import { until } from '../support/place.ts';
import { recipeOf } from '../support/working-copy.ts';

test('of a log of any length what is in sight is asked for, and what is found is found in all of it', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  const says = 'seq -f "tide %.0f of the year" 1 20000; echo low water at Lune Quay; seq 1 5000';
  await made.push('One', {
    'vaquero.yaml': recipeOf(`${says}; mkdir out; echo x > out/index.html`),
  });
  await page.goto(`${service.origin}/p/timetable/builds/1`);
  const log = page.getByRole('region', { name: 'Log' });
  const pane = log.getByRole('log');
  const shown = () => pane.locator('[data-line]').count();
  const first = () => pane.locator('[data-line]').first().getAttribute('data-line');
  await log.getByText(/^(\d+) of \1 lines$/).waitFor();
  await pane.getByText('5000', { exact: true }).last().waitFor();
  assert.ok((await shown()) <= 1_000, 'its end, and no more');
  // Scrolled towards its beginning, it goes on; what is far away is let go of.
  let before = Number(await first());
  for (let turn = 0; turn < 8; turn += 1) {
    await pane.evaluate((element) => {
      (element as unknown as { scrollTop: number }).scrollTop = 0;
    });
    await until('earlier lines come', async () => Number(await first()) < before);
    before = Number(await first());
  }
  assert.ok((await shown()) <= 3_000);
  await log.getByRole('button', { name: 'Beginning' }).click();
  await pane.getByText('tide 1 of the year', { exact: true }).waitFor();
  await log.getByRole('button', { name: 'End' }).click();
  await pane.getByText('5000', { exact: true }).last().waitFor();

  await log.getByRole('searchbox', { name: 'Find in it' }).fill('LOW WATER');
  const found = pane.getByText('low water at Lune Quay', { exact: true });
  await found.waitFor();
  await log.getByText(/^2 of \d+ lines$/).waitFor();
  const href = await pane.locator('[data-line]').last().locator('a').getAttribute('href');
  // An address that names a line opens there, with what was said around it.
  await page.goto('about:blank');
  await page.goto(`${service.origin}/p/timetable/builds/1${href}`);
  await found.waitFor();
  const at = await found.boundingBox();
  assert.ok(at !== null && at.y < 800, 'it is in sight');
  await pane.getByText('tide 20000 of the year', { exact: true }).waitFor();
});
