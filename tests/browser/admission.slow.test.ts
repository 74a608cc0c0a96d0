import assert from 'node:assert/strict';
import test from 'node:test';
import { addPerson } from '@vaquero/service';
import { openConsole } from '../support/console.ts';
import { changeMap } from '../support/maps.ts';
import { until } from '../support/place.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

test('a member opens a preview by its address alone; a stranger, and a page of another site, do not', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await changeMap(service, 'timetable', (text) =>
    text.replace('each: {proposed-into: main}', 'each: {branch: "try/*"}'),
  );
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay');
  const shell = `${writesPage('quay')}; echo "window.told = 1" > out/a.js`;
  await made.copy.commit('Quay', { 'vaquero.yaml': recipeOf(shell) });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await until('the preview is served', async () => {
    const found = await service.environmentOf('timetable', 'try-quay').catch(() => null);
    return found?.serves?.confirmedAt != null;
  });
  const preview = `http://try-quay.timetable.localhost:${service.edgePort}`;
  const staging = `http://staging.timetable.localhost:${service.edgePort}`;

  // Signed in already: the way through the console is not seen, and not in the history.
  await page.goto(`${preview}/`);
  await page.getByRole('heading', { name: 'quay', exact: true }).waitFor();
  assert.equal(page.url(), `${preview}/`);
  const cookies = await page.context().cookies(preview);
  assert.deepEqual(
    cookies
      .map(({ name, httpOnly, sameSite, domain }) => [name, httpOnly, sameSite, domain])
      .sort(),
    [
      ['vaquero-pass', true, 'Lax', 'try-quay.timetable.localhost'],
      ['vaquero-visitor', true, 'Lax', 'try-quay.timetable.localhost'],
    ],
  );

  // A page of another environment takes no part of it, though this browser may see it.
  const beside = await page.context().newPage();
  await beside.goto(`${staging}/`);
  await beside.getByRole('heading', { name: 'one' }).waitFor();
  const taken = await beside.evaluate(async (from) => {
    const script = (): Promise<string> =>
      new Promise((resolve) => {
        const element = document.createElement('script');
        element.onload = () => resolve('loaded');
        element.onerror = () => resolve('refused');
        element.src = `${from}/a.js`;
        document.head.append(element);
      });
    const text = await fetch(`${from}/`, { credentials: 'include' }).then(
      (reply) => reply.text(),
      () => 'refused',
    );
    return [await script(), text, 'told' in window];
  }, preview);
  assert.deepEqual(taken, ['refused', 'refused', false]);
  await beside.close();

  // In another browser one signs in first, and is back where one was going.
  await addPerson(service.deps, {
    name: 'noor',
    shownAs: 'Noor',
    password: 'far holm',
    role: null,
  });
  const apart = await page.context().browser()?.newContext();
  const theirs = (await apart?.newPage()) ?? assert.fail('no browser');
  const signIn = async (name: string, password: string): Promise<void> => {
    await theirs.getByLabel('Name').fill(name);
    await theirs.getByLabel('Password').fill(password);
    await theirs.getByRole('button', { name: 'Sign in' }).click();
  };
  await theirs.goto(`${preview}/a.js?x=1`);
  await theirs.getByRole('heading', { name: 'Sign in to Vaquero' }).waitFor();
  await signIn('noor', 'far holm');
  await theirs
    .getByRole('heading', { name: /try-quay\.timetable\.localhost cannot be opened/ })
    .waitFor();
  await theirs.getByText(/is not for you to see/).waitFor();
  await apart?.clearCookies();
  await theirs.goto(`${preview}/a.js?x=1`);
  await theirs.getByRole('heading', { name: 'Sign in to Vaquero' }).waitFor();
  await signIn('tomas', 'lune quay');
  await theirs.waitForURL(`${preview}/a.js?x=1`);
  assert.match((await theirs.textContent('body')) ?? '', /window\.told/);
  await apart?.close();
});
