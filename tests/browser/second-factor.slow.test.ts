import assert from 'node:assert/strict';
import test from 'node:test';
import { generate } from 'otplib';
import type { Page } from 'playwright-core';
import { openConsole } from '../support/console.ts';
import { addOperator } from '../support/people.ts';

const secretIn = /^[A-Z2-7]{32}$/;

/** Sets one up where the page offers it; returns the recovery words. */
async function setUp(page: Page): Promise<readonly string[]> {
  await page.getByRole('button', { name: 'Set up a second factor' }).click();
  await page.getByRole('img', { name: 'The secret as a picture for a camera' }).waitFor();
  const secret = (await page.getByText(secretIn).textContent()) ?? '';
  const code = page.getByLabel('A code that it shows');
  await code.fill('12 34');
  await page.getByRole('button', { name: 'Let it hold' }).click();
  await page.getByText('This is no code of the second factor.').waitFor();
  await code.fill(await generate({ secret }));
  await page.getByRole('button', { name: 'Let it hold' }).click();
  const words = page.getByRole('status', { name: 'Recovery words' }).getByRole('listitem');
  await words.first().waitFor();
  const all = await words.allTextContents();
  await page.getByRole('button', { name: 'I have them' }).click();
  return all;
}

test('a second factor is set up with a picture and a code, asked for at the next sign-in, demanded, and ended by an operator', async (t) => {
  const { service, page } = await openConsole(t);
  await addOperator(service, { name: 'ada', shownAs: 'Ada Lind', password: 'lune quay' } as never);
  await page.goto(`${service.origin}/me`);
  const own = page.getByRole('region', { name: 'Second factor' });
  await own.getByText('None: name and password alone sign you in.').waitFor();
  await own.getByLabel('Your password').fill('lune quay');
  const words = await setUp(page);
  assert.equal(words.length, 10);
  await own.getByText(/^Asked for since .*; 10 recovery words left\.$/).waitFor();

  const browser = page.context().browser() ?? assert.fail('no browser');
  const apart = await browser.newContext();
  const theirs = await apart.newPage();
  const signIn = async (name: string) => {
    await theirs.goto(`${service.origin}/sign-in`);
    await theirs.getByLabel('Name').fill(name);
    await theirs.getByLabel('Password').fill('lune quay');
    await theirs.getByRole('button', { name: 'Sign in' }).click();
  };
  await signIn('tomas');
  const code = theirs.getByLabel('Code of your second factor, or a recovery word');
  await code.fill(words[0] ?? '');
  await theirs.keyboard.press('Enter');
  await theirs.getByRole('link', { name: 'Tomas Revik' }).waitFor();
  await apart.clearCookies();

  // Demanded of operators, it is set up before anything else is seen.
  await page.goto(`${service.origin}/people`);
  await page
    .getByRole('region', { name: 'Sign-in' })
    .getByLabel('A second factor is demanded of')
    .selectOption('operators');
  await signIn('ada');
  await theirs.getByRole('heading', { name: 'Sign in with a second factor' }).waitFor();
  const [first = ''] = await setUp(theirs);
  await theirs.getByRole('button', { name: 'Sign in' }).click();
  await code.fill(first);
  await theirs.getByRole('button', { name: 'Sign in' }).click();
  await theirs.getByRole('link', { name: 'Ada Lind' }).waitFor();
  await apart.close();

  await page.reload();
  await page.getByRole('button', { name: 'End it… the second factor of Ada Lind' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'End it' }).click();
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  await page.getByRole('row').filter({ hasText: 'Ada Lind' }).getByText('none').waitFor();
});
