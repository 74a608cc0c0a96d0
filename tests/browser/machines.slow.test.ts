import test from 'node:test';
import { openConsole } from '../support/console.ts';

test('an operator sees what builds and what serves, gives a runner no more builds, makes another known and takes it back', async (t) => {
  const { service, page } = await openConsole(t);
  await page.getByRole('link', { name: 'Machines' }).click();
  await page
    .getByRole('heading', { level: 1, name: '1 runner and 1 edge are heard of.' })
    .waitFor();
  const runners = page.getByRole('region', { name: 'Runners' });
  const own = runners.getByRole('row').filter({ hasText: 'runner-1' });
  await own.getByRole('button', { name: 'Give runner-1 no more builds' }).click();
  await own.getByText('and takes no more').waitFor();
  await own.getByRole('button', { name: 'Give runner-1 builds again' }).click();
  await own.getByText('and takes no more').waitFor({ state: 'detached' });

  await runners.getByLabel('Another runner, by name').fill('quay');
  await runners.getByRole('button', { name: 'Make it known' }).click();
  await runners.getByText(/^quay comes in by this/).waitFor();
  await page.getByRole('heading', { level: 1, name: 'quay is silent.' }).waitFor();
  await page.getByRole('button', { name: 'Take back… the token of quay' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Take it back' }).click();
  await page
    .getByRole('heading', { level: 1, name: '1 runner and 1 edge are heard of.' })
    .waitFor();

  // What serves is not taken back from under its visitors.
  await page.getByRole('button', { name: 'Take back… the token of edge-1' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Take it back' }).click();
  await page.getByRole('dialog').getByRole('alert').waitFor();
  await page.getByRole('button', { name: 'Leave it' }).click();

  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto(`${service.origin}/me`);
  await page.getByRole('link', { name: 'its runners and edges' }).click();
  await page.waitForURL('**/machines');
});
