import assert from 'node:assert/strict';
import test from 'node:test';
import { openBrowser, signIn } from '../../tools/browser.mjs';
import { startHttpsFront } from '../support/https-front.ts';
import { changeMap } from '../support/maps.ts';
import { addOperator } from '../support/people.ts';
import { atEnd, freePort, until } from '../support/place.ts';
import { startTestService } from '../support/service.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

const built = new URL('../../dist/console', import.meta.url).pathname;
const [desk, base, artifacts] = ['ferry-desk.example', 'ferries.example', 'ferry-parts.example'];

/** What a page of one environment gets of another place, by every way that a browser has. */
async function takes(other: string): Promise<Readonly<Record<string, string>>> {
  const script = await new Promise<string>((resolve) => {
    const element = document.createElement('script');
    element.onload = () => resolve('loaded');
    element.onerror = () => resolve('refused');
    element.src = `${other}/a.js`;
    document.head.append(element);
  });
  const text = await fetch(`${other}/`, { credentials: 'include' }).then(
    (reply) => reply.text(),
    () => 'refused',
  );
  const frame = document.createElement('iframe');
  frame.src = `${other}/`;
  const framed = await new Promise<string>((resolve) => {
    frame.onload = () => {
      try {
        resolve(frame.contentDocument?.body.textContent ?? 'closed');
      } catch {
        resolve('closed');
      }
    };
    document.body.append(frame);
  });
  // biome-ignore lint/suspicious/noDocumentCookie: what an attacker's page writes
  document.cookie = '__Host-vaquero-pass=mine; domain=ferries.example; path=/; secure';
  // biome-ignore lint/suspicious/noDocumentCookie: what an attacker's page writes
  document.cookie = 'vaquero-pass=mine; domain=ferries.example; path=/; secure';
  return { script, text, framed, told: String('told' in window), cookies: document.cookie };
}

test('under names of the world and https no page of an environment has anything of another one, or of the console', async (t) => {
  const port = await freePort();
  const front = await startHttpsFront(t, port, [desk, base, artifacts]);
  const origin = `https://${desk}:${port}`;
  const service = await startTestService(t, {
    environment: {
      VAQUERO_CONSOLE: built,
      VAQUERO_ORIGIN: origin,
      VAQUERO_BASE: `${base}:${port}`,
      VAQUERO_ARTIFACTS_BASE: `${artifacts}:${port}`,
    },
  });
  front.behind((host) =>
    host === desk ? Number(new URL(service.address).port) : service.edgePort,
  );
  await addOperator(service);
  const made = await service.project('timetable');
  const shell = `${writesPage('one')}; echo "window.told = 1" > out/a.js`;
  await made.push('One', { 'vaquero.yaml': recipeOf(shell) });
  await changeMap(service, 'timetable', (text) =>
    text.replace('each: {proposed-into: main}', 'each: {branch: "try/*"}'),
  );
  for (const name of ['quay', 'pier']) {
    await made.copy.git('checkout', '--quiet', '-B', `try/${name}`, 'main');
    const own = `${writesPage(name)}; echo "window.told = 1" > out/a.js`;
    await made.copy.commit(name, { 'vaquero.yaml': recipeOf(own) });
    await made.copy.git('push', '--quiet', made.remote, `try/${name}`);
    await until(`${name} is served`, async () => {
      const found = await service.environmentOf('timetable', `try-${name}`).catch(() => null);
      return found?.serves?.confirmedAt != null;
    });
  }
  const of = (name: string): string => `https://try-${name}.timetable.${base}:${port}`;

  const browser = await openBrowser(['--host-resolver-rules=MAP *.example 127.0.0.1']);
  atEnd(t, () => browser.close());
  const context = await browser.newContext({ ignoreHTTPSErrors: true });
  context.setDefaultTimeout(45_000);
  const page = await context.newPage();
  await signIn(page, origin, 'tomas', 'lune quay');

  // A member comes in by the address alone, and nothing of the way stays.
  await page.goto(`${of('quay')}/`);
  await page.getByRole('heading', { name: 'quay', exact: true }).waitFor();
  assert.equal(page.url(), `${of('quay')}/`);
  assert.doesNotMatch(await page.evaluate(() => document.referrer), /word|visitor|key/);
  const cookies = await context.cookies(of('quay'));
  assert.deepEqual(
    cookies.map((one) => [one.name, one.secure, one.httpOnly, one.sameSite, one.domain]).sort(),
    ['pass', 'visitor'].map((name) => [
      `__Host-vaquero-${name}`,
      true,
      true,
      'Lax',
      `try-quay.timetable.${base}`,
    ]),
  );

  // Another preview is one site with it, and has nothing of it all the same; nor of the console.
  await page.goto(`${of('pier')}/`);
  await page.getByRole('heading', { name: 'pier', exact: true }).waitFor();
  for (const other of [of('quay'), origin]) {
    const taken = await page.evaluate(takes, other);
    assert.deepEqual(
      { ...taken, cookies: taken.cookies?.replace(/^vaquero-pass=mine$/, '') },
      { script: 'refused', text: 'refused', framed: 'closed', told: 'false', cookies: '' },
      other,
    );
  }
  // What it wrote for the whole domain opens nothing, and shuts nobody out.
  await page.goto(`${of('quay')}/`);
  await page.getByRole('heading', { name: 'quay', exact: true }).waitFor();

  // The pass of one browser, and that of another host, open nothing in a browser without the cookie beside it.
  const pass = cookies.find(({ name }) => name.endsWith('-pass')) ?? assert.fail();
  const apart = await browser.newContext({ ignoreHTTPSErrors: true });
  for (const name of ['quay', 'pier']) {
    const { sameSite, httpOnly, secure, value } = pass;
    await apart.addCookies([
      { name: pass.name, value, url: `${of(name)}/`, sameSite, httpOnly, secure },
    ]);
    const theirs = await apart.newPage();
    await theirs.goto(`${of(name)}/`);
    await theirs.getByRole('heading', { name: 'Sign in to Vaquero' }).waitFor();
    assert.equal(new URL(theirs.url()).hostname, desk);
  }
  await apart.close();
});
