import assert from 'node:assert/strict';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { projectRoutes } from '@vaquero/contracts';
import { execa } from 'execa';
import { openBrowser } from '../tools/browser.mjs';
import { linesOf } from './support/log-lines.ts';
import { temporaryFolder, until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { makeWorkingCopy } from './support/working-copy.ts';

const completeLock = new URL('../tools/complete-lock.mjs', import.meta.url).pathname;

/** A package.json and the lock file that npm makes of it. */
async function locked(t: TestContext, manifest: Readonly<Record<string, unknown>>) {
  const folder = temporaryFolder(t);
  const text = JSON.stringify({ name: 'timetable', version: '1.0.0', private: true, ...manifest });
  writeFileSync(join(folder, 'package.json'), text);
  await execa('npm', ['install', '--package-lock-only', '--no-audit', '--no-fund'], {
    cwd: folder,
  });
  // A registry that lacks binaries of other platforms leaves them out of the lock file; `npm ci` wants them named.
  await execa(process.execPath, [completeLock], { cwd: folder });
  return {
    'package.json': text,
    'package-lock.json': readFileSync(join(folder, 'package-lock.json'), 'utf8'),
  };
}

const logOf = async (service: TestService, project: string, build: number): Promise<string> =>
  (await linesOf(service, build, undefined, project)).join('\n');

test('an app of Vite and React with a router is answered at deep links, and below a folder of the host', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const config = (base: string) =>
    `export default { base: ${JSON.stringify(base)}, build: { outDir: "www", assetsDir: "assets" } };`;
  const build = await made.push('An app', {
    ...(await locked(t, {
      type: 'module',
      scripts: { build: 'vite build' },
      dependencies: { react: '19.2.0', 'react-dom': '19.2.0', 'react-router': '7.18.5' },
      devDependencies: { vite: '6.4.1' },
    })),
    'index.html':
      '<!doctype html><title>Lune Quay</title><div id="root"></div><script type="module" src="/src/main.jsx"></script>',
    'vite.config.js': config('/'),
    'src/main.jsx': `import { createElement as h } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, useParams } from "react-router";
import { RouterProvider } from "react-router/dom";
import "./style.css";
const Journey = () => { const { from, to } = useParams(); return h("h1", null, from + " to " + to); };
const router = createBrowserRouter(
  [{ path: "/", element: h("h1", null, "Next from Lune Quay") }, { path: "/planner/:from/:to", element: h(Journey) }],
  { basename: import.meta.env.BASE_URL });
createRoot(document.getElementById("root")).render(h(RouterProvider, { router }));`,
    'src/style.css': 'h1 { color: teal }',
  });
  assert.equal(build.failure, null, await logOf(service, 'timetable', 1));
  assert.equal(build.recipe?.recipe.serve?.site, 'www');
  assert.deepEqual(build.recipe?.recipe.serve?.instead, [{ at: '/*', page: '/index.html' }]);
  const host = `staging.timetable.localhost:${service.edgePort}`;
  const script = /src="(\/assets\/[^"]+\.js)"/.exec((await service.page(host)).text)?.[1] ?? '';
  assert.match((await service.page(host, script)).text, /Next from Lune Quay/);
  // What a router takes as the base of its addresses is no address of the office.
  assert.deepEqual(build.evidence.inspection?.findings, []);
  const browser = await openBrowser();
  t.after(() => browser.close());
  const page = await browser.newPage();
  await page.goto(`http://${host}/planner/lune-quay/orrin`);
  await page.getByRole('heading', { name: 'lune-quay to orrin' }).waitFor();
  assert.equal((await service.page(host, '/assets/none.js')).status, 404);

  // Built for a folder of the host it goes live there, with what it loads.
  const docs = await made.push('Below a folder', { 'vite.config.js': config('/docs/') });
  assert.equal(docs.failure, null, await logOf(service, 'timetable', 2));
  assert.equal(docs.recipe?.recipe.serve?.base, '/docs/');
  const front = await service.page(host);
  assert.deepEqual([front.status, front.headers.location], [308, '/docs/']);
  await page.goto(`http://${host}/`);
  await page.getByRole('heading', { name: 'Next from Lune Quay' }).waitFor();
  await page.goto(`http://${host}/docs/planner/orrin/lune-quay`);
  await page.getByRole('heading', { name: 'orrin to lune-quay' }).waitFor();
});

test('a site of a JavaScript generator builds by its proposal', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('Pages of templates', {
    ...(await locked(t, {
      scripts: { build: 'eleventy' },
      devDependencies: { '@11ty/eleventy': '3.1.8' },
    })),
    'index.md': '---\ntitle: Fares\n---\n# {{ title }}\n\n[Sailings](/sailings/)\n',
    'sailings.md': '# Sailings\n',
  });
  assert.equal(build.failure, null, await logOf(service, 'timetable', 1));
  assert.equal(build.recipe?.recipe.serve?.site, '_site');
  const host = `staging.timetable.localhost:${service.edgePort}`;
  assert.match((await service.page(host)).text, /<h1>Fares<\/h1>/);
  assert.match((await service.page(host, '/sailings/')).text, /<h1>Sailings<\/h1>/);
});

test('a site of a generator that Debian packages builds by its proposal, without network', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('signage');
  const build = await made.push('Signs', {
    'hugo.toml':
      'title = "Harbour signs"\nbaseURL = "/"\npublishDir = "signs"\ndisableKinds = ["RSS", "sitemap", "taxonomy", "term"]\n',
    'content/_index.md': 'Pier 3 is closed.\n',
    'layouts/index.html': '<!doctype html><h1>{{ .Site.Title }}</h1>{{ .Content }}',
  });
  assert.equal(build.failure, null, await logOf(service, 'signage', 1));
  assert.equal(build.recipe?.recipe.serve?.site, 'signs');
  const page = await service.page(`staging.signage.localhost:${service.edgePort}`);
  assert.match(page.text, /<h1>Harbour signs<\/h1>/);
});

test('two sites of one repository with npm workspaces are two projects, each with what it shares', async (t) => {
  const service = await startTestService(t);
  const copy = await makeWorkingCopy(join(service.state, 'roots', 'kettle'));
  const site = (name: string) => ({
    [`sites/${name}/package.json`]: JSON.stringify({
      name,
      version: '1.0.0',
      scripts: { build: 'node build.js' },
      dependencies: { shared: '1.0.0' },
    }),
    [`sites/${name}/build.js`]: `const { head } = require('shared'); require('fs').writeFileSync('out/index.html', head('${name}'));`,
    [`sites/${name}/vaquero.yaml`]: `beyond: [/package.json, /package-lock.json, /packages, /sites]
steps:
  packages:
    run: cd ../.. && npm ci --no-audit --no-fund
    reads: [/package.json, /package-lock.json, /packages/shared, "/sites/*/package.json"]
    writes: /node_modules
    network: out
  pages:
    after: packages
    run: npm run build
    reads: [package.json, build.js, /packages/shared]
    writes: out
serve: {site: out}
`,
  });
  const files = {
    'package.json': JSON.stringify({ private: true, workspaces: ['sites/*', 'packages/*'] }),
    'packages/shared/package.json': JSON.stringify({
      name: 'shared',
      version: '1.0.0',
      main: 'head.js',
    }),
    'packages/shared/head.js':
      "exports.head = (name) => '<h1>' + name + ' of the Kettle line</h1>';",
    ...site('desk'),
    ...site('signs'),
  };
  await copy.commit('Two sites', files);
  await execa('npm', ['install', '--package-lock-only', '--no-audit', '--no-fund'], {
    cwd: copy.folder,
  });
  await copy.commit('Their lock file', {});
  for (const name of ['desk', 'signs'])
    await service.operator.call(projectRoutes.makeProjectRoute, {
      body: { name, folder: `sites/${name}`, repository: { kind: 'path', path: copy.folder } },
    });
  for (const name of ['desk', 'signs']) {
    const build = await until(
      `${name} is built`,
      () => service.buildEnded(name, 1).catch(() => null),
      {
        withinMs: 60_000,
      },
    );
    assert.equal(build.failure, null, await logOf(service, name, 1));
    const page = await service.page(`build-1.${name}.artifacts.localhost:${service.edgePort}`);
    assert.equal(page.text, `<h1>${name} of the Kettle line</h1>`);
  }
});

test('a server with tests is tested against itself, and its reports stand beside the build', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('ticket-desk');
  const build = await made.push('The ticket desk', {
    'package.json': JSON.stringify({
      name: 'desk',
      type: 'module',
      scripts: { test: 'node --test --test-reporter=tap' },
    }),
    'server.js':
      "import { createServer } from 'node:http'; createServer((req, res) => res.end(JSON.stringify({ fare: 5.9 }))).listen(8080, () => console.log('the desk is open'));",
    'test/desk.test.js':
      "import assert from 'node:assert/strict'; import test from 'node:test'; test('an adult pays 5.90', async () => { const reply = await fetch('http://127.0.0.1:8080/fares'); assert.equal((await reply.json()).fare, 5.9); });",
    'docs/index.html': '<h1>The ticket desk</h1>',
    'vaquero.yaml': `steps:
  unit:
    run: mkdir -p reports && npm test --silent > reports/desk.tap
    beside: desk
    results: {tests: reports/desk.tap}
  docs: {run: cp -r docs out, after: unit}
beside:
  desk: {run: node server.js, ready: {port: 8080}}
serve: {site: out}
`,
  });
  assert.equal(build.failure, null, await logOf(service, 'ticket-desk', 1));
  assert.deepEqual(
    build.evidence.tests.map(({ step, total, failed }) => [step, total, failed]),
    [['unit', 1, 0]],
  );
  assert.match(await logOf(service, 'ticket-desk', 1), /^desk: the desk is open$/m);
});

test('a recipe that pins Node by major version is built with it, and fetches it once', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('Pinned', {
    'vaquero.yaml': `tools: {node: 22}
steps:
  pages: {run: node --version > out/index.html, reads: vaquero.yaml, writes: out}
serve: {site: out}
`,
  });
  assert.equal(build.failure, null, await logOf(service, 'timetable', 1));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  assert.match((await service.page(host)).text, /^v22\./);
  assert.match(process.version, /^v20\./);
  const again = await made.push('Another page', {
    'vaquero.yaml': `tools: {node: 22}
steps:
  pages: {run: "node --version > out/index.html; echo more", reads: vaquero.yaml, writes: out}
serve: {site: out}
`,
  });
  assert.deepEqual(
    again.steps.slice(1, 3).map((step) => [step.name, step.state]),
    [
      ['tool-node-22', 'reused'],
      ['pages', 'passed'],
    ],
  );
});
