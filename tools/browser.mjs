// Debian's Chromium, driven headless.
import { chromium } from 'playwright-core';

/** Opens a browser that speaks to this machine only; `args` are more words of its command line. */
export function openBrowser(args = []) {
  return chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      ...args,
    ],
  });
}

/** Signs in through the console's own form. */
export async function signIn(page, origin, name, password) {
  await page.goto(`${origin}/sign-in`);
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await page.waitForURL(`${origin}/`);
}
