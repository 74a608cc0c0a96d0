import assert from 'node:assert/strict';
import { after, type TestContext } from 'node:test';
import { execa } from 'execa';
import type { Browser, Page } from 'playwright-core';
import { openBrowser, signIn } from '../../tools/browser.mjs';
import { addOperator } from './people.ts';
import { atEnd } from './place.ts';
import { type ServiceOptions, startTestService, type TestService } from './service.ts';

const built = new URL('../../dist/console', import.meta.url).pathname;

/** One browser for the tests of a file, each with a context of its own: its start takes seconds. One that does not close is ended. */
let browser: Promise<Browser> | null = null;
after(async () => {
  const closed = (await browser)?.close();
  const late = setTimeout(() => void execa('pkill', ['-KILL', '-P', String(process.pid)]), 20_000);
  await closed;
  clearTimeout(late);
});

/** A page of the console, signed in as an operator; any error of the browser's fails the test. */
export async function openConsole(
  t: TestContext,
  options: {
    colorScheme?: 'light' | 'dark';
    width?: number;
    environment?: Readonly<Record<string, string>>;
    clock?: ServiceOptions['clock'];
  } = {},
): Promise<{ service: TestService; page: Page }> {
  const service = await startTestService(t, {
    environment: { VAQUERO_CONSOLE: built, ...options.environment },
    ...(options.clock === undefined ? {} : { clock: options.clock }),
  });
  await addOperator(service);
  browser ??= openBrowser();
  const context = await (await browser).newContext({
    viewport: { width: options.width ?? 1280, height: 800 },
    colorScheme: options.colorScheme ?? 'light',
  });
  atEnd(t, () => context.close());
  const page = await context.newPage();
  // A machine that runs the whole suite on two processors has its slow quarters of a minute.
  page.setDefaultTimeout(45_000);
  // A test that fails says what the page showed: its own message says only what was waited for.
  atEnd(t, async () => {
    if ((t as { passed?: boolean }).passed === false)
      t.diagnostic(`The page:\n${await page.locator('body').ariaSnapshot()}`);
  });
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('console', (message) => {
    // The browser itself logs every refusal and every connection that ends; the page shows what they mean.
    if (message.type() === 'error' && !message.text().startsWith('Failed to load resource'))
      errors.push(message.text());
  });
  atEnd(t, () => assert.deepEqual(errors, []));
  await signIn(page, service.origin, 'tomas', 'lune quay');
  return { service, page };
}
