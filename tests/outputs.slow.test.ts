import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { recipeRoutes } from '@vaquero/contracts';
import { execa } from 'execa';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

test('an output that cannot be published is told by what is wrong with it', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const cases: readonly (readonly [string, RegExp, RegExp])[] = [
    [
      'mkdir build && echo x > build/index.html && echo y > build/a.css',
      /^“out” is not there\.$/,
      /^“build” has an index\.html and 2 files\.$/,
    ],
    ['mkdir out', /^“out” is there but holds no file\.$/, /^No folder has an index\.html\.$/],
    [
      'mkdir out && echo x > out/main.html',
      /^“out” has no entry page “index\.html”\.$/,
      /^No folder has/,
    ],
    [
      `${writesPage('x')} && ln -s /etc/passwd out/people`,
      /^“people” is a link that leaves the output, to “\/etc\/passwd”\.$/,
      /could show files of the machine/,
    ],
    [
      `${writesPage('x')} && ln -s ../vaquero.yaml out/recipe`,
      /^“recipe” is a link that leaves the output, to “\.\.\/vaquero\.yaml”\.$/,
      /./,
    ],
    [
      `${writesPage('x')} && ln -s nowhere out/broken`,
      /^“broken” is a link that leaves the output/,
      /./,
    ],
    [`${writesPage('x')} && ln -s . out/again`, /folders deep/, /./],
    [`${writesPage('x')} && mkfifo out/pipe`, /^“pipe” is a named pipe, not a file\.$/, /./],
    [`${writesPage('x')} && touch "out/$(printf 'a\\nb')"`, /holds a control character/, /./],
    [`${writesPage('x')} && touch "out/$(printf 'a\\377b')"`, /is not valid UTF-8/, /./],
    [`${writesPage('x')} && touch 'out/a\\b'`, /holds a backslash/, /./],
    [
      `${writesPage('x')} && mkdir -p out/.git && touch out/.git/config`,
      /lies in a \.git folder/,
      /./,
    ],
    ['ln -s /usr/share out', /link that leaves|is not there/, /./],
  ];
  for (const [shell, what, why] of cases) {
    const build = await made.push(shell.slice(0, 60), { 'vaquero.yaml': recipeOf(shell) });
    assert.equal(build.state, 'failed', shell);
    assert.match(build.failure?.what ?? '', what, shell);
    assert.match(build.failure?.why ?? '', why, shell);
  }
  // Nothing of it ever reached staging.
  assert.equal((await service.environmentOf('timetable', 'staging')).serves, null);
});

test('links inside the output become the files they lead to, and executables stay so', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('Links', {
    'vaquero.yaml': recipeOf(
      `${writesPage('one')} && mkdir out/real && echo same > out/real/a.txt && ln -s real/a.txt out/b.txt && ln -s real out/alias && chmod +x out/real/a.txt`,
    ),
  });
  assert.equal(build.state, 'passed');
  const host = `staging.timetable.localhost:${service.edgePort}`;
  for (const path of ['/real/a.txt', '/b.txt', '/alias/a.txt'])
    assert.equal((await service.page(host, path)).text, 'same\n');
  assert.equal(build.artifact?.files, 4);
});

test('equal files are stored once, and what is stored is named by its bytes', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const first = await made.push('One', {
    'vaquero.yaml': recipeOf(
      `${writesPage('x')}; for i in 1 2 3 4 5; do echo same > out/$i.txt; done`,
    ),
  });
  assert.equal(first.artifact?.files, 6);
  const names = async () =>
    (
      await execa('find', [join(service.state, 'store', 'sha256'), '-type', 'f', '-printf', '%f\n'])
    ).stdout.split('\n');
  assert.equal((await names()).length, 3); // the page, the text, the manifest
  const sums = await execa('sh', [
    '-c',
    `cd ${join(service.state, 'store', 'sha256')} && find . -type f | while read f; do sha256sum "$f"; done`,
  ]);
  for (const row of sums.stdout.split('\n'))
    assert.equal(row.split(/\s+/)[0], row.split('/').at(-1));
  // The same output again is the same artifact.
  const again = await made.push('Two', { 'a.txt': 'elsewhere' });
  assert.equal(again.artifact?.digest, first.artifact?.digest);
  assert.equal((await names()).length, 3);
});

test('a proposed recipe is used, accepted with one field changed, and overruled by a file', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const params = { project: 'timetable' };
  const show = () => service.operator.call(recipeRoutes.showRecipeRoute, { params });
  assert.equal((await show()).inForce, null);
  assert.equal(
    (
      await refusalOf(
        service.operator.call(recipeRoutes.acceptRecipeRoute, { seen: '*', params, body: {} }),
      )
    ).code,
    'no-commit-yet',
  );

  const build = await made.push('Two folders', {
    'package.json': JSON.stringify({
      name: 'x',
      scripts: {
        build:
          "mkdir -p dist preview && echo '<p>dist' > dist/index.html && echo more > dist/a.css && echo '<p>preview' > preview/index.html",
      },
    }),
  });
  assert.equal(build.state, 'passed');
  assert.equal(build.recipe?.source.from, 'proposed');
  const shown = await show();
  assert.equal(shown.inForce?.recipe.serve?.site, 'dist');
  assert.ok(shown.proposed?.because.some((why) => why === 'build 1 wrote dist'));

  const accepted = await service.operator.call(recipeRoutes.acceptRecipeRoute, {
    seen: '*',
    params,
    body: { site: 'preview' },
  });
  assert.deepEqual(
    [
      accepted.accepted?.version,
      accepted.inForce?.source.from,
      accepted.inForce?.recipe.serve?.site,
    ],
    [1, 'accepted', 'preview'],
  );
  const second = await made.push('Again', { 'b.txt': 'x' });
  assert.equal(second.recipe?.recipe.serve?.site, 'preview');
  assert.equal(
    (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text,
    '<p>preview\n',
  );

  await made.push('The file wins', { 'vaquero.yaml': recipeOf(writesPage('file')) });
  const withFile = await show();
  assert.equal(withFile.inForce?.source.from, 'file');
  assert.ok(
    withFile.differences.some(
      (one) => one.field === 'serve.site' && one.ours === 'preview' && one.theirs === 'out',
    ),
  );
  assert.equal(
    (
      await refusalOf(
        service.operator.call(recipeRoutes.acceptRecipeRoute, {
          seen: '*',
          params,
          body: { site: 'x' },
        }),
      )
    ).code,
    'recipe-file-wins',
  );
});

test('a recipe that cannot be read fails the build at once, with line and column', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push('Bad recipe', {
    'vaquero.yaml': 'steps:\n  pages: {run: x}\nserve: {site: a, server: {run: x}}\n',
  });
  assert.equal(build.state, 'failed');
  assert.match(build.failure?.why ?? '', /line 3, column \d+: serve\.server is not known yet\./);
  const none = await made.push('Nothing to go by', { 'vaquero.yaml': null, 'README.md': 'x' });
  assert.deepEqual([none.failure, none.artifact, none.recipe?.recipe.serve], [null, null, null]);
  const { source } = none.recipe ?? {};
  assert.match(source?.from === 'proposed' ? (source.because[0] ?? '') : '', /looks like a site/);
});

test('a step that fails names its exit, its telling line and what changed since the last good build', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const lock = (vite: string) =>
    JSON.stringify({ packages: { '': {}, 'node_modules/vite': { version: vite } } });
  await made.push('Good', {
    'vaquero.yaml': recipeOf(writesPage('x')),
    'package-lock.json': lock('5.4.1'),
  });
  const build = await made.push('Bad', {
    'package-lock.json': lock('6.0.0'),
    'vaquero.yaml': recipeOf("echo reading; echo 'Error: unknown harbour' >&2; exit 7"),
    'data/a.json': '{}',
  });
  assert.equal(build.failure?.what, 'Step pages ended with exit code 7.');
  assert.equal(build.tellingLine?.text, 'Error: unknown harbour');
  assert.deepEqual(
    build.lastGood?.changed.map((file) => file.path),
    ['data/a.json', 'package-lock.json', 'vaquero.yaml'],
  );
  assert.deepEqual(build.lastGood?.packages, [{ name: 'vite', before: '5.4.1', now: '6.0.0' }]);
  assert.deepEqual(
    build.steps.map((step) => [step.name, step.state]),
    [
      ['fetch', 'passed'],
      ['pages', 'failed'],
    ],
  );
  assert.equal((await service.environmentOf('timetable', 'staging')).serves?.build, 1);
});
