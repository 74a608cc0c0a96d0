// `npm run screenshots`: pictures of each main page and output, from a running demo, into docs/screenshots/.
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { openBrowser, signIn } from './browser.mjs';
import { demoState } from './demo-state.mjs';
import { root } from './prepare.mjs';

const origin = `http://localhost:${process.env.VAQUERO_PORT ?? 4600}`;
const password = readFileSync(join(demoState(), 'demo-password'), 'utf8');
const folder = join(root, 'docs', 'screenshots');
mkdirSync(folder, { recursive: true });
const browser = await openBrowser();

async function shoot(
  name,
  path,
  { width = 1280, height = 800, colorScheme = 'light', fullPage = false, prepare } = {},
) {
  const context = await browser.newContext({
    viewport: { width, height },
    colorScheme,
    reducedMotion: 'reduce',
  });
  const page = await context.newPage();
  await signIn(page, origin, 'ines', password);
  await page.goto(origin + path);
  await page.getByRole('heading', { level: 1 }).first().waitFor();
  await page.waitForLoadState('load');
  await page.evaluate(() => document.fonts.ready);
  // The event stream never lets the network fall idle; a line of the log or a band is what is waited for.
  await page
    .locator(
      '.band, tbody tr, [role=log] > div, .cm-content, form, [aria-label=Steps], [aria-label="What it brings"] li',
    )
    .first()
    .waitFor({ state: 'attached' });
  // Behind a build's log comes who said what in it; its tabs tell that it is there.
  if (name.startsWith('build-') && !['build-waiting', 'build-candidates'].includes(name)) {
    await page.getByRole('region', { name: 'Log' }).getByRole('button').nth(1).waitFor();
    await page.locator('[role=log] > div').first().waitFor();
  }
  await prepare?.(page);
  await page.screenshot({ path: join(folder, `${name}.png`), fullPage });
  await context.close();
}

function vaquero(args) {
  const home = join(demoState(), 'screenshots-home');
  return execFileSync(process.execPath, [join(root, 'packages/cli/dist/vaquero.mjs'), ...args], {
    encoding: 'utf8',
    env: { ...process.env, XDG_CONFIG_HOME: home, VAQUERO_ADDRESS: origin },
  });
}

/** What a terminal of the picture's width shows. */
function vaqueroInTerminal(args) {
  const home = join(demoState(), 'screenshots-home');
  const client = join(root, 'packages/cli/dist/vaquero.mjs');
  const line = [process.execPath, client, ...args].join(' ');
  return execFileSync('script', ['-qec', `stty cols 170; ${line}`, '/dev/null'], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, XDG_CONFIG_HOME: home, VAQUERO_ADDRESS: origin, NO_COLOR: '1' },
  }).replaceAll('\r', '');
}

async function shootTerminal(name, commands) {
  const text = commands
    .map((args) => `$ vaquero ${args.join(' ')}\n${vaqueroInTerminal(args)}`)
    .join('\n');
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const safe = text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
  await page.setContent(
    `<body style="margin:0;background:#13110f"><pre style="margin:0;padding:16px;color:#e9e6dd;font:12px/17px 'DejaVu Sans Mono',monospace">${safe}</pre>`,
  );
  await page.screenshot({ path: join(folder, `${name}.png`) });
  await page.close();
}

/** The number of the build of a commit, by its subject. */
function numberOf(subject) {
  const { builds } = JSON.parse(vaquero(['builds', 'timetable', '--limit', '100', '--json']));
  return builds.find((build) => build.commit.subject === subject)?.number ?? 1;
}

function newestNumber() {
  const { builds } = JSON.parse(vaquero(['builds', 'timetable', '--limit', '1', '--json']));
  return builds[0]?.number ?? 1;
}

vaquero(['sign-in', 'ines', '--password', password]);
await shoot('lanes-light', '/p/timetable');
await shoot('lanes-dark', '/p/timetable', { colorScheme: 'dark' });
await shoot('lanes-phone', '/p/timetable', { width: 390, height: 844 });
await shoot(
  'build-failed',
  `/p/timetable/builds/${numberOf('Merrow Point is called Merrow Quay')}`,
);
await shoot('builds', '/p/timetable/builds');
await shoot('settings', '/p/timetable/settings/values');
await shoot('history', '/p/timetable/history');
await shoot('visits', '/p/timetable/visits');
// In the demo as it was made, an outsider's commit waits for a word.
await shoot('pull-request', '/p/timetable/pr-4');
// What is told beside the page comes after it: a picture of half a page says nothing of either.
await shoot('preview', '/p/timetable/pr-2', {
  prepare: async (page) => {
    await page
      .getByRole('region', { name: 'What would change' })
      .getByText(/^against .*: /)
      .waitFor();
    const pictures = page.getByRole('region', { name: 'Pictures' });
    await pictures.locator('summary').first().click();
    const picture = pictures.getByRole('img').first();
    await picture.waitFor();
    await picture.evaluate((image) => image.decode());
  },
});
await shoot('previews', '/p/timetable/pull-requests/previews');
await shoot('new-project', '/new', {
  prepare: async (page) => {
    await page.getByLabel(/^Its name/).fill('tides');
    await page.getByLabel('Its repository', { exact: true }).selectOption('shared');
    await page.getByLabel('Which project’s').selectOption('signage');
    await page.getByRole('button', { name: 'Read it', exact: true }).click();
    await page.getByText('It can be read').waitFor();
    await page.getByText(/staging\.tides/).waitFor();
  },
});
await shoot('map', '/p/timetable/map', {
  prepare: (page) => page.locator('.cm-content').waitFor(),
});
await shoot('reach', '/p/timetable/map/reach?why=pr-2');
await shoot('projects', '/');
await shoot('people', '/people');
await shoot('machines', '/machines');
await shootTerminal('command-line', [
  ['live'],
  ['history', 'timetable', '--limit', '6'],
  ['build', 'timetable', String(numberOf('Merrow Point is called Merrow Quay'))],
  ['pull-requests', 'timetable'],
  ['map', 'timetable'],
  ['why', 'timetable', 'pr-2'],
]);
// A build that waits, with its steps foretold: the runner is given nothing for a moment.
vaquero(['drain-runner', 'runner-1']);
vaquero(['build-again', 'timetable', '--afresh', '--no-follow']);
await shoot('build-waiting', `/p/timetable/builds/${newestNumber()}`);
vaquero(['use-runner', 'runner-1']);
await browser.close();
process.stdout.write(`pictures in ${folder}\n`);
