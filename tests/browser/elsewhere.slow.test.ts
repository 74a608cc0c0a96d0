import test from 'node:test';
import { startIdentityProvider } from '@vaquero/standins';
import { openConsole } from '../support/console.ts';
import { atEnd } from '../support/place.ts';

test('somebody joins what they are elsewhere on their own page, and signs in by it, back to where they were going', async (t) => {
  const secret = 'a word between them';
  const provider = await startIdentityProvider({
    client: 'vaquero',
    secret,
    people: [
      { subject: 'u-17', shownAs: 'Tomas Revik' },
      { subject: 'u-18', shownAs: 'Petra Quist' },
    ],
  });
  atEnd(t, provider.stop);
  const { service, page } = await openConsole(t, {
    environment: {
      VAQUERO_ELSEWHERE_ISSUER: provider.issuer,
      VAQUERO_ELSEWHERE_SECRET: secret,
      VAQUERO_ELSEWHERE_CALLED: 'the harbour office',
    },
  });
  const be = async (name: string) => {
    await page.getByRole('heading', { name: 'Who are you?' }).waitFor();
    await page.getByRole('link', { name }).click();
  };
  await page.goto(`${service.origin}/me`);
  const office = page.getByRole('region', { name: 'the harbour office' });
  await office.getByRole('button', { name: 'Join who you are there' }).click();
  await be('Tomas Revik');
  await page.waitForURL('**/me');
  await office.getByText(/^You sign in by it, too, since /).waitFor();

  await page.context().clearCookies();
  await page.goto(`${service.origin}/people`);
  await page.getByRole('button', { name: 'Sign in by the harbour office' }).click();
  await be('Petra Quist');
  await page
    .getByText('the harbour office knows you, and nobody here is joined with that.')
    .waitFor();
  await page.goto(`${service.origin}/people`);
  await page.getByRole('button', { name: 'Sign in by the harbour office' }).click();
  await be('Tomas Revik');
  await page.waitForURL('**/people');
  await page.getByRole('heading', { level: 1, name: /may do something here/ }).waitFor();
});
