import assert from 'node:assert/strict';
import test from 'node:test';
import { buildRoutes, recipeRoutes } from '@vaquero/contracts';
import { openConsole } from '../support/console.ts';
import { changeMap, stopsFor } from '../support/maps.ts';
import { recipeOf } from '../support/working-copy.ts';

test('a build shows its graph, what was reused, tests and findings; its log is split by step and searched', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  const recipe = (unit: string) => ({
    'vaquero.yaml': `steps:
  words: {run: sh words.sh, reads: [words.sh, vaquero.yaml], writes: words}
  unit:
    run: ${unit}; cp given.tap reports/a.tap
    reads: given.tap
    writes: reports
    results: {tests: reports/a.tap}
  pages: {run: cp page.html out/index.html, reads: page.html, writes: out}
serve: {site: out}
`,
    'words.sh': "printf '\\033[31mlow tide\\033[0m\\n'\n",
    'given.tap': 'TAP version 13\n1..1\nnot ok 1 - the pier holds\n',
    'page.html': '<a href=gone.html>x</a>',
  });
  const first = await made.push('One', recipe('echo first'));
  assert.equal(first.failure, null);
  await made.push('Two', recipe('echo second'));
  await page.goto(`${service.origin}/p/timetable/builds/2`);
  await page.getByRole('heading', { level: 1, name: /^Build 2 passed/ }).waitFor();
  await page.getByRole('img', { name: /^pages reused reused, saved/ }).waitFor();
  await page.getByText('reused from build 1', { exact: true }).waitFor();
  const tests = page.getByRole('region', { name: 'Tests' });
  await tests.getByText('0 of 1 passed, 1 failed').waitFor();
  await tests.getByText('the pier holds').first().waitFor();
  await page
    .getByRole('region', { name: 'Findings' })
    .getByText('refers to gone.html, which is not there')
    .waitFor();
  const log = page.getByRole('region', { name: 'Log' });
  await log.getByRole('button', { name: 'words', exact: true }).click();
  await log.getByText('low tide', { exact: true }).waitFor();
  await log.getByText(/^echo second/).waitFor({ state: 'detached' });
  const red = log.getByText('low tide', { exact: true });
  assert.match((await red.getAttribute('class')) ?? '', /text-bad/);
  await log.getByRole('button', { name: 'all', exact: true }).click();
  await log.getByRole('searchbox', { name: 'Find in it' }).fill('SECOND');
  await log.getByText(/of \d+ lines/).waitFor();
  await log.getByText('second', { exact: true }).waitFor();
});

test('a secret is set in the console and never shown again, and a build is cancelled there', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await page.goto(`${service.origin}/p/timetable/settings/values`);
  await page
    .getByRole('heading', { level: 1, name: 'Builds are given 0 variables and 0 secrets.' })
    .waitFor();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('map_key');
  await page.getByRole('textbox', { name: 'Value', exact: true }).fill('low-water-at-six');
  await page.getByRole('button', { name: 'Set it' }).click();
  await page.getByRole('row', { name: /^MAP_KEY every build secret, never shown again/ }).waitFor();
  assert.ok(!(await page.content()).includes('low-water-at-six'));
  await page.getByRole('link', { name: 'Building' }).click();
  // What stops a build is the map's to say, and is shown here as it changes there.
  const inspection = page.getByRole('region', { name: 'Inspection' });
  await inspection.getByText('broken-link warning. Correct').waitFor();
  await stopsFor(service, 'timetable', ['broken-link']);
  await inspection.getByText('broken-link warning, stops builds for staging.').waitFor();

  await made.copy.commit('Endless', {
    'vaquero.yaml': recipeOf('echo begun; sleep 300'),
  });
  await made.copy.push(made.remote);
  await page.goto(`${service.origin}/p/timetable/builds/1`);
  await page.getByRole('region', { name: 'Under way' }).getByText('pages').waitFor();
  await page.getByRole('button', { name: 'Cancel this build' }).click();
  await page.getByRole('heading', { level: 1, name: 'Build 1 is cancelled.' }).waitFor();
  await page.getByRole('button', { name: 'Take away MAP_KEY' }).waitFor({ state: 'detached' });
});

test('a wrong folder is corrected with one press, and the next build serves the right one', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  // No recipe file: what is built comes of the package's own script, and its folder is guessed from a configuration.
  const guessed = await made.push('A site whose configuration says otherwise', {
    'package.json': JSON.stringify({
      name: 'signs',
      scripts: { build: 'mkdir pages && echo tide > pages/index.html && echo x > pages/a.css' },
      devDependencies: { vite: '5.0.0' },
    }),
    'vite.config.js': "export default { build: { outDir: 'dist' } };\n",
  });
  // What nobody has accepted gives way to what the build has shown.
  assert.equal(guessed.recipe?.recipe.serve?.site, 'pages');
  const params = { project: 'timetable' };
  const body = { site: 'public' };
  await service.operator.call(recipeRoutes.acceptRecipeRoute, { seen: '*', params, body });
  await service.operator.call(buildRoutes.buildAgainRoute, { params, body: {} });
  const failed = await service.buildEnded('timetable', 2);
  assert.equal(failed.reason?.reason, 'output-absent');
  await page.goto(`${service.origin}/p/timetable/builds/2`);
  await page.getByRole('button', { name: 'Serve pages (2 files) and build again' }).click();
  await page.getByRole('heading', { level: 1, name: /^Build 3 passed.*live in staging/ }).waitFor();
  const { text } = await service.page(`staging.timetable.localhost:${service.edgePort}`);
  assert.equal(text, 'tide\n');
});

test('steps to come are drawn, an overtaken build says by which, and evidence stands beside its site', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  await made.push('One', {
    'vaquero.yaml': recipeOf('mkdir out && sleep 0.5 && echo tide > out/index.html'),
    '.vaquero/rules.yaml': 'for: {branch: main}\nsteps: {words: {run: echo fine}}\n',
  });
  await service.buildEnded('timetable', 2);
  await changeMap(service, 'timetable', (text) =>
    text.replace('staging: {follows', 'staging: {overtaken: stop, follows'),
  );

  await made.copy.commit('Slow', {
    'vaquero.yaml': recipeOf('mkdir out && sleep 300 && echo ebb > out/index.html'),
  });
  await made.copy.push(made.remote);
  await page.goto(`${service.origin}/p/timetable/builds/3`);
  await page.getByRole('heading', { level: 1, name: /^Build 3 is running, .* of about/ }).waitFor();
  await page.getByRole('img', { name: /^store waiting about \d+ ms/ }).waitFor();
  await page.getByText('expected, by its usual time').waitFor();
  await made.copy.commit('Quick', {
    'vaquero.yaml': recipeOf('mkdir out && echo flow > out/index.html'),
  });
  await made.copy.push(made.remote);
  await page
    .getByRole('heading', { level: 1, name: /^Build 3 is cancelled: build 5 of a newer commit/ })
    .waitFor();
  await page.getByRole('img', { name: /^pages stopped .*then stopped/ }).waitFor();

  await page.goto(`${service.origin}/p/timetable/builds/2`);
  await page
    .getByRole('heading', { level: 1, name: 'Build 2 passed, and makes evidence only.' })
    .waitFor();
  await page.getByRole('link', { name: /site 1, passed/ }).click();
  await page.getByRole('heading', { level: 1, name: /^Build 1 passed/ }).waitFor();
  await page.goto(`${service.origin}/p/timetable/builds`);
  await page.getByText('by the recipe rules').first().waitFor();
});

test('of several sites one is taken with a press, failing tests are left out with another, and what comes in is named', async (t) => {
  const { service, page } = await openConsole(t);
  const made = await service.project('timetable');
  const site = (name: string) => ({
    [`sites/${name}/package.json`]: JSON.stringify({
      name,
      scripts: {
        build: `mkdir -p dist && echo '<a href="gone.html">${name}</a>' > dist/index.html`,
        test: 'echo low tide; exit 3',
      },
    }),
    [`sites/${name}/index.html`]: 'the source',
  });
  await made.push('Two sites', { 'package.json': '{}', ...site('desk'), ...site('signs') });
  await page.goto(`${service.origin}/p/timetable/builds/1`);
  await page.getByText('The repository has 2 sites').waitFor();
  await page.getByRole('button', { name: 'Take sites/signs and build again' }).click();
  await page.getByRole('heading', { level: 1, name: /^Build 2 failed/ }).waitFor();
  await page.getByRole('button', { name: 'Leave the tests out and build again' }).click();
  await page.getByRole('heading', { level: 1, name: /^Build 3 passed.*live in staging/ }).waitFor();
  await page.goto(`${service.origin}/p/timetable`);
  await page.getByRole('button', { name: 'Promote…' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByText('1 warning').waitFor();
  await sheet.getByText('refers to gone.html, which is not there').waitFor();
});
