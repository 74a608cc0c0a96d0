import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, mapRoutes, pullRequestRoutes, variableRoutes } from '@vaquero/contracts';
import { anotherRunner } from './support/another-runner.ts';
import { commandLine } from './support/command-line.ts';
import { serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

test('the map says whose it is to set the values of an environment; they go with its rule', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project(project);
  const noor = await service.person('noor', 'builder', project);
  const ada = await service.person('ada', 'maintainer', project);
  const set = (client: typeof noor.client, environment: string) =>
    client.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: 'NOTICE_LEVEL' },
      query: { environment },
      body: { kind: 'plain', value: 'storm' },
    });
  assert.equal((await refusalOf(set(noor.client, 'staging'))).code, 'not-allowed');
  await changeMap(service, project, (text) =>
    text.replace('{follows: {branch: main}}', '{follows: {branch: main}, may: {values: [noor]}}'),
  );
  const { places } = await set(noor.client, 'staging');
  assert.deepEqual(
    places.map(({ environment, may, who }) => [environment, may, who]),
    [
      ['', false, 'a maintainer'],
      ['staging', true, 'noor'],
      ['preview', false, 'a maintainer'],
    ],
  );
  const drop = (client: typeof noor.client, environment: string) =>
    client.call(variableRoutes.dropVariableRoute, {
      params: { ...params, variable: 'NOTICE_LEVEL' },
      query: { environment },
    });
  assert.equal((await refusalOf(set(noor.client, ''))).code, 'not-allowed');
  assert.equal((await refusalOf(set(noor.client, 'nowhere'))).code, 'not-allowed');
  const problem = await refusalOf(set(ada.client, 'staging'));
  assert.equal(problem.code, 'map-says-who');
  assert.equal((await refusalOf(drop(ada.client, 'staging'))).code, 'map-says-who');
  assert.equal((await refusalOf(set(ada.client, 'nowhere'))).code, 'not-found');

  // What goes, and whose rights change, is said before; then it is gone, also for a later rule of that name.
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const { text } = await service.operator.call(mapRoutes.showMapRoute, { params });
  const file = join(service.state, 'map.yaml');
  const without = text.replace(/^ {2}production.*\n/m, '').replace('production, ', '');
  writeFileSync(file, without.replaceAll('staging', 'quay').replace(/, may: .*\}$/m, '}'));
  const tried = await vaquero('try-map', project, file);
  assert.match(tried.out, /^values +of staging go with it: NOTICE_LEVEL$/m);
  writeFileSync(
    file,
    text.replace('may: {values: [noor]}', 'may: {values: builder, promote: [ada]}'),
  );
  assert.match(
    (await vaquero('try-map', project, file)).out,
    /^rights +ada, staging: also sets values$/m,
  );
  await changeMap(service, project, () => without.replaceAll('staging', 'quay'), [
    'staging',
    'production',
  ]);
  await changeMap(service, project, () => text, ['quay']);
  const shown = await service.operator.call(variableRoutes.listVariablesRoute, { params });
  assert.deepEqual(shown.variables, []);

  // The versions say what each changed, and any two are held against each other.
  const versions = await vaquero('map-versions', project);
  assert.match(versions.out, /^2 .* staging changed +tried$/m);
  const against = await vaquero('map-versions', project, '2', '--against', '1');
  assert.match(against.out, /^- {3}staging: \{follows: \{branch: main\}\}$/m);
  assert.match(against.out, /^\+ {3}staging: .*may: \{values: \[noor\]\}\}$/m);
  assert.equal((await vaquero('map-versions', project, '1', '--against', '99')).code, 3);
  assert.equal((await vaquero('map-versions', project, '--against', '1')).code, 2);
});

test('environments of one branch that are given other values have builds of their own, and are served no others', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const set = (value: string, environment = '') =>
    service.operator.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: 'NOTICE' },
      query: { environment },
      body: { kind: 'plain', value },
    });
  await changeMap(service, project, (text) =>
    text
      .replace('staging, preview', 'staging, quay, preview')
      .replace(/^ {2}preview/m, '  quay: {follows: {branch: main}}\n  preview'),
  );
  await set('calm');
  const recipe = recipeOf('mkdir -p out; echo "$NOTICE" > out/index.html').replace(
    '    run:',
    '    given: NOTICE\n    run:',
  );
  const push = (text: string) => made.push(text, { 'vaquero.yaml': recipe, 'notes.txt': text });
  const numbers = async () =>
    (
      await service.operator.call(buildRoutes.listBuildsRoute, { params, query: { limit: 50 } })
    ).builds.map(({ number }) => number);

  // Given the same they share a build.
  await push('One');
  await serves(service, 'staging', 1);
  await serves(service, 'quay', 1);
  await set('storm', 'quay');
  await push('Two');
  await serves(service, 'staging', 2);
  await serves(service, 'quay', 3);
  const page = async (environment: string) =>
    (await service.page(`${environment}.${project}.localhost`)).text.trim();
  assert.deepEqual([await page('staging'), await page('quay')], ['calm', 'storm']);
  const build = (number: number) =>
    service.operator.call(buildRoutes.showBuildRoute, { params: { ...params, build: number } });
  const [two, three] = [await build(2), await build(3)];
  assert.equal(two.destination, 'staging follows main, with values of its own');
  assert.equal(three.destination, 'quay follows main, with values of its own');
  assert.deepEqual(
    two.siblings.map(({ number, wantedBy }) => [number, ...wantedBy]),
    [[3, 'quay']],
  );

  // Asked for again: one build of an earlier one, of the branch one for each set.
  const again = (body: { build?: number }) =>
    service.operator.call(buildRoutes.buildAgainRoute, {
      params,
      body: { ...body, earlier: 'used', meant: false },
    });
  assert.equal((await again({ build: 3 })).number, 4);
  await serves(service, 'quay', 4);
  assert.equal((await again({})).number, 5);
  await serves(service, 'staging', 5);
  await serves(service, 'quay', 6);
  assert.deepEqual(await numbers(), [6, 5, 4, 3, 2, 1]);

  // A newer commit stops what is open of an older one for the same environment, never that of its own commit.
  await changeMap(service, project, (text) =>
    text.replaceAll('follows: {branch: main}', 'follows: {branch: main}, overtaken: stop'),
  );
  await push('Three');
  await serves(service, 'staging', 7);
  await serves(service, 'quay', 8);
});

test('before a merge it is told which value or step has staging built anew', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const set = (value: string, environment: string) =>
    service.operator.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: 'NOTICE' },
      query: { environment },
      body: { kind: 'plain', value },
    });
  await changeMap(service, project, (text) =>
    text.replace('preview: {', 'preview: {gives: {build: [NOTICE]}, '),
  );
  await set('storm', 'staging');
  await set('calm', 'preview');
  const recipe = recipeOf(
    'mkdir -p out; echo "$NOTICE" > out/index.html',
    '  depth:\n    for: {branch: main}\n    run: "true"\n',
  ).replace('    run:', '    given: NOTICE\n    run:');
  await made.push('One', { 'vaquero.yaml': recipe });
  await made.copy.git('checkout', '--quiet', '-b', 'try/depth');
  await made.copy.commit('Two', { 'vaquero.yaml': `${recipe}# two\n`, 'two.txt': 'two\n' });
  await made.copy.git('push', '--quiet', made.remote, 'try/depth');
  const pull = await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params,
    body: { branch: 'try/depth', title: 'Depth', place: null },
  });
  await serves(service, 'pr-1', 2);
  const { merge } = await service.operator.call(pullRequestRoutes.showPullRequestRoute, {
    params: { ...params, pullRequest: pull.name },
  });
  assert.equal(
    merge?.follows[0],
    'A build from this commit goes to staging, as the step depth is run for staging alone and NOTICE has another value for staging.',
  );
});

test('values that are set while a build waits: each environment is served its own, and nothing answers for others', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const made = await service.project(project);
  const set = (value: string, environment = '', name = 'NOTICE') =>
    service.operator.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: name },
      query: { environment },
      body: { kind: 'plain', value },
    });
  await changeMap(service, project, (text) =>
    text
      .replace('staging, preview', 'staging, quay, preview')
      .replace(/^ {2}preview/m, '  quay: {follows: {branch: main}}\n  preview'),
  );
  await set('calm');
  await set('north', '', 'SIDE');
  const recipe = recipeOf('mkdir -p out; echo "$NOTICE $SIDE" > out/index.html').replace(
    '    run:',
    '    given: [NOTICE, SIDE]\n    run:',
  );
  const show = (build: number) =>
    service.operator.call(buildRoutes.showBuildRoute, { params: { ...params, build } });
  const page = async (environment: string) =>
    (await service.page(`${environment}.${project}.localhost`)).text.trim();

  // Nothing builds yet.
  const push = async (subject: string, files: Readonly<Record<string, string>>) => {
    await made.copy.commit(subject, files);
    await made.copy.push(made.remote);
  };

  // One build waits for both; then they are given different values, and one of them is called otherwise.
  await push('One', { 'vaquero.yaml': recipe });
  await until('build 1 waits', async () => (await show(1).catch(() => null))?.state === 'queued');
  await set('storm', 'quay');
  await changeMap(service, project, (text) =>
    text.replaceAll('quay', 'pier').replace('pier: {', 'pier: {was: quay, '),
  );
  const late = await anotherRunner(t, service, 'late');
  await serves(service, 'staging', 1);
  await serves(service, 'pier', 2);
  assert.deepEqual([await page('staging'), await page('pier')], ['calm north', 'storm north']);
  const two = await show(2);
  assert.equal(two.destination, 'pier follows main, with values of its own');
  assert.equal(two.cause, 'parted from 1, as pier is given other values');

  // A value that is set back is given again, not answered by what was made of the other one meanwhile.
  await late.stop();
  await push('Two', { 'two.txt': 'two' });
  await until('build 3 waits', async () => (await show(3).catch(() => null))?.state === 'queued');
  await set('gale');
  await anotherRunner(t, service, 'later');
  await serves(service, 'staging', 3);
  assert.equal(await page('staging'), 'gale north');
  await set('calm');
  await made.copy.git('commit', '--quiet', '--allow-empty', '-m', 'Three');
  await made.copy.push(made.remote);
  await serves(service, 'staging', 5);
  assert.equal((await show(5)).state, 'passed');
  assert.equal(await page('staging'), 'calm north');
});
