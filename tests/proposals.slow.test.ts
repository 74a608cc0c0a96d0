import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, evidenceRoutes, recipeRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { stopsFor } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const params = { project: 'timetable' };
const accept = (
  service: TestService,
  body: (typeof recipeRoutes.acceptRecipeRoute.body)['_input'],
) => service.operator.call(recipeRoutes.acceptRecipeRoute, { seen: '*', params, body });
const again = async (service: TestService, meant = false) => {
  const { number } = await service.operator.call(buildRoutes.buildAgainRoute, {
    params,
    body: { meant },
  });
  return service.buildEnded('timetable', number);
};
const statesOf = (build: Awaited<ReturnType<typeof again>>) =>
  Object.fromEntries(build.steps.map((step) => [step.name, step.state]));
const writes = (folder: string, text: string): string =>
  `node -e "const fs=require('fs');fs.mkdirSync('${folder}',{recursive:true});fs.writeFileSync('${folder}/index.html',process.argv[1]??'${text}')"`;

/** Packages that come from the repository alone: nothing is fetched for them. */
const sites = (...names: string[]) => ({
  'package.json': JSON.stringify({ private: true, workspaces: ['sites/*'] }),
  'package-lock.json': JSON.stringify({
    name: 'kettle',
    lockfileVersion: 3,
    packages: {
      '': { workspaces: ['sites/*'] },
      ...Object.fromEntries(
        names.flatMap((name) => [
          [`node_modules/${name}`, { resolved: `sites/${name}`, link: true }],
          [`sites/${name}`, { version: '1.0.0' }],
        ]),
      ),
    },
  }),
  ...Object.fromEntries(
    names.flatMap((name) => [
      [
        `sites/${name}/package.json`,
        JSON.stringify({
          name,
          version: '1.0.0',
          scripts: { build: writes('dist', `${name} of the Kettle line`) },
        }),
      ],
      [`sites/${name}/index.html`, 'the source'],
    ]),
  ),
});

test('of several sites each is named with what takes it, and what was installed is kept', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const several = await made.push('Two sites', sites('desk', 'signs'));
  assert.deepEqual(several.reason?.reason === 'recipe-missing' && several.reason.candidates, [
    'sites/desk',
    'sites/signs',
  ]);
  assert.match(several.failure?.next ?? '', /accept-recipe PROJECT --candidate sites\/desk\)/);
  await assert.rejects(accept(service, { candidate: 'sites/none' }), /sites\/desk, sites\/signs/);
  await accept(service, { candidate: 'sites/signs' });
  const built = await again(service);
  assert.equal(built.failure, null);
  assert.equal(built.recipe?.recipe.serve?.site, 'sites/signs/dist');
  // The built page, not the source that stands above it. Staging moves once the build has passed.
  await until('the built page is served', async () => {
    const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
    return page.text === 'signs of the Kettle line';
  });
  const next = await made.push('Another page', { 'sites/signs/note.txt': 'x' });
  assert.equal(next.failure, null);
  assert.deepEqual(
    [statesOf(next).packages, statesOf(next).pages],
    ['reused', 'passed'],
    'an unchanged lock file installs nothing',
  );
});

test('a failing test fails the build, leaving it out is one call, and a library publishes nothing', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const manifest = (test: string) =>
    JSON.stringify({ name: 'a', scripts: { build: writes('out', 'tide'), test } });
  const failed = await made.push('Red', { 'package.json': manifest('echo low tide; exit 3') });
  assert.match(failed.failure?.what ?? '', /^Step tests ended with exit code 3/);
  assert.equal((await service.environmentOf('timetable', 'staging')).serves, null);
  const said = await accept(service, { run: { tests: [] } });
  assert.deepEqual(
    said.inForce?.recipe.steps.map((step) => step.name),
    ['pages'],
  );
  assert.equal((await again(service)).failure, null);
  const more = await accept(service, {
    steps: { pages: { network: 'out', caches: ['.cache'], given: ['MAP_KEY'] } },
    tools: { node: 20 },
  });
  const [pages] = more.inForce?.recipe.steps ?? [];
  assert.deepEqual(
    [pages?.network, pages?.caches, pages?.given, more.inForce?.recipe.tools.node],
    ['out', ['.cache'], ['MAP_KEY'], 20],
  );
  await assert.rejects(
    accept(service, { steps: { paegs: { network: 'out' } } }),
    /there are pages/,
  );
  const library = await service.project('tides');
  const tried = await library.push('A library', {
    'package.json': JSON.stringify({ name: 'tides', scripts: { test: 'node --test' } }),
    'tide.test.js': "require('node:test').test('a tide', () => undefined);",
  });
  assert.deepEqual(
    [tried.state, tried.artifact, statesOf(tried).tests],
    ['passed', null, 'passed'],
  );
});

test('sources, old output and half a site do not go live in silence', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const stale = await made.push('Old output', {
    'package.json': JSON.stringify({ name: 'a', scripts: { build: 'echo elsewhere' } }),
    'dist/index.html': 'as of last year',
  });
  assert.equal(stale.failure?.what, 'The steps ran, but no folder looks like a site.');
  assert.match(stale.failure?.why ?? '', /“dist” has an index\.html.*came with the commit/);
  const source = await made.push('Sources', {
    'package.json': null,
    'dist/index.html': null,
    'index.html': '<!doctype html><script type="module" src="/src/main.tsx"></script>',
    'src/main.tsx': 'export {}',
  });
  assert.match(source.failure?.what ?? '', /asks for \/src\/main\.tsx, which no browser can use/);
  const pages = Object.fromEntries(
    Array.from({ length: 8 }, (_, n) => [`page-${n}.html`, '<!doctype html><p>x']),
  );
  const whole = await made.push('A whole site', {
    'src/main.tsx': null,
    'index.html': '<!doctype html><p>all sailings',
    ...pages,
  });
  assert.equal(whole.failure, null);
  const half = await made.push('Half of it', {
    ...Object.fromEntries(Object.keys(pages).map((path) => [path, null])),
    'one.html': '<!doctype html><img src="gone.png">',
  });
  assert.match(half.failure?.what ?? '', /^The inspection stopped it: .*, and 1 more\.$/);
  const { inspection } = half.evidence;
  assert.deepEqual(
    inspection?.findings.map((one) => one.rule),
    ['broken-asset', 'shrank'],
  );
  const mended = await made.push('Without the picture', { 'one.html': '<!doctype html><p>x' });
  assert.equal(mended.reason?.reason === 'inspection' && mended.reason.total, 1);
  assert.equal((await service.environmentOf('timetable', 'staging')).serves?.build, whole.number);
  const meant = await again(service, true);
  assert.equal(meant.failure, null);
  assert.match(meant.cause, /meant to be smaller$/);
});

test('what a promotion lets in is named before it asks, and a statement is held against its artifact', async (t) => {
  const service = await startTestService(t);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const made = await service.project('timetable');
  await stopsFor(service, 'timetable', ['secret-value']);
  const build = await made.push('A page with faults', {
    'vaquero.yaml': recipeOf(
      'mkdir out; echo \'<img src="map.png"><a href="gone.html">x</a>\' > out/index.html',
    ),
  });
  assert.equal(build.failure, null);
  const promoted = await vaquero('promote', 'timetable', '--yes');
  assert.equal(promoted.code, 0);
  assert.match(
    promoted.err,
    /It lets in 1 error and 1 warning:\n {2}error +index\.html, line 1: refers to map\.png.*\n {2}warning +index\.html/,
  );
  const [statement, key, manifest] = ['s.json', 'k.pem', 'm.json'].map((name) =>
    join(service.state, name),
  );
  const absent = await vaquero('check-provenance', statement ?? '', '--key', key ?? '');
  assert.deepEqual([absent.code, absent.out], [2, '']);
  assert.match(
    absent.err,
    /s\.json is not there: vaquero provenance PROJECT BUILD > .*s\.json writes it/,
  );
  assert.equal((await vaquero('manifest', 'timetable', '1', manifest ?? '')).code, 0);
  const { text, artifact } = await service.operator.call(evidenceRoutes.manifestRoute, {
    params: { ...params, build: 1 },
  });
  assert.equal(artifact, build.artifact?.digest);
  assert.equal(JSON.parse(text).site.files.length, 1);
  const none = await vaquero('manifest', 'timetable', '7', manifest ?? '');
  assert.equal(none.code, 3);
  const refused: readonly (readonly [string[], RegExp])[] = [
    [['manifest', 'timetable', '1', '/nonexistent/m.json'], /cannot be written \(ENOENT\)/],
    [['accept-recipe', 'timetable', '--tool', 'node=abc'], /takes a line, such as node=22/],
    [['accept-recipe', 'timetable', '--network', 'pages=on'], /STEP=none or STEP=out/],
    [['accept-recipe', 'timetable', '--given', 'MAP_KEY'], /takes STEP=NAME,NAME/],
    [['check-provenance', manifest ?? '', '--key', manifest ?? ''], /is no signed statement/],
  ];
  for (const [args, said] of refused) {
    const end = await vaquero(...args);
    assert.equal(end.code, 2, args.join(' '));
    assert.match(end.err, said);
  }
  const { out } = await vaquero('provenance', 'timetable', '1');
  writeFileSync(statement ?? '', out);
  const badKey = await vaquero('check-provenance', statement ?? '', '--key', statement ?? '');
  assert.deepEqual([badKey.code, /is no public key/.test(badKey.err)], [2, true]);
  writeFileSync(key ?? '', (await vaquero('signing-key')).out);
  const holds = ['check-provenance', statement ?? '', '--key', key ?? '', '--manifest'];
  assert.equal((await vaquero(...holds, manifest ?? '')).code, 0);
  assert.equal((await vaquero(...holds, key ?? '')).code, 3);
});
