import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import {
  environmentRoutes,
  mapRoutes,
  pullRequestRoutes,
  variableRoutes,
} from '@vaquero/contracts';
import { memberPage } from './support/admission.ts';
import { commandLine } from './support/command-line.ts';
import { environments, gone, names, serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { temporaryFolder, until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

test('a proposed change has an environment of its own, which follows it and ends with it', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const recipe = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
  await made.push('One', recipe('one'));
  const push = async (branch: string, text: string): Promise<void> => {
    await made.copy.git('checkout', '--quiet', '-B', branch);
    await made.copy.commit(text, recipe(text));
    await made.copy.git('push', '--quiet', '--force', made.remote, `${branch}:${branch}`);
  };
  await push('try/quay-map', 'quay map');
  const open = (branch: string) =>
    service.operator.call(pullRequestRoutes.openPullRequestRoute, {
      params,
      body: { branch, title: branch, place: null },
    });
  await open('try/quay-map');
  const preview = await serves(service, 'pr-1', 2);
  assert.deepEqual(
    [preview.place, preview.family?.rule, preview.family?.of],
    [2, 'preview', 'pr-1'],
  );
  const page = await memberPage(service, `pr-1.${project}.localhost`);
  assert.match(String(page.body), /quay map/);
  assert.equal(page.headers['x-robots-tag'], 'noindex');
  assert.deepEqual(await names(service), ['production', 'staging', 'pr-1']);

  // A new commit is what it serves, also one that takes the place of the other.
  await push('try/quay-map', 'quay map, larger');
  await serves(service, 'pr-1', 3);

  // Merged: staging takes the very bytes without a build, and the preview ends after its time.
  await made.copy.git('checkout', '--quiet', 'main');
  await made.copy.git('merge', '--quiet', '--ff-only', 'try/quay-map');
  await made.copy.push(made.remote);
  const staging = await until('staging serves what was proposed', async () => {
    const found = (await environments(service)).find((one) => one.name === 'staging');
    return (
      found?.serves?.artifact !== preview.serves?.artifact && found?.serves?.build === 4 && found
    );
  });
  const last = (await environments(service)).find((one) => one.name === 'pr-1');
  assert.equal(last?.serves?.artifact, staging.serves?.artifact);
  await until('its end is known', async () => {
    const now = (await environments(service)).find((one) => one.name === 'pr-1');
    return now?.family?.endsAt != null && now.family.endsAt < Date.now() + 3_700_000;
  });

  // Set to nothing, the time is over at once.
  await changeMap(service, project, (text) =>
    text.replace('preview: {', 'preview: {ends: {closed: 0 min}, '),
  );
  await gone(service, 'pr-1');
  const ended = await service.page(`pr-1.${project}.localhost`);
  assert.equal(ended.status, 410);
  assert.match(
    ended.text,
    /pr-1 of timetable ended on .* UTC: its pull request or branch has ended\. The same bytes still answer at <a href="http:\/\/staging\.timetable\.localhost:\d+\/">/,
  );
  assert.match(
    ended.text,
    /<a href="http:[^"]*\/p\/timetable\/history\/pr-1">the project’s history<\/a>/,
  );
  assert.ok(!/build-3\.timetable/.test(ended.text), 'what is for members is not led to');
});

test('a map is tried, set with the version it replaces, and takes nothing away that nobody named', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const copy = made.copy;
  await copy.git('push', '--quiet', made.remote, 'main:try/one', 'main:try/Two_Quays');
  const shown = await service.operator.call(mapRoutes.showMapRoute, { params });
  assert.deepEqual(
    shown.rules.map(({ name, says }) => [name, says]),
    [
      ['production', 'accepts from staging'],
      ['staging', 'follows main'],
      ['preview', 'one for each pull request into main'],
    ],
  );
  const wider = shown.text.replace('proposed-into: main', 'proposed-into: main, branch: "try/*"');
  await until('the branches are known', async () => {
    const tried = await service.operator.call(mapRoutes.tryMapRoute, {
      params,
      body: { text: wider },
    });
    return tried.difference.starts.length === 2;
  });
  const set = (text: string, seen: string, ends: string[] = []) =>
    service.operator.call(mapRoutes.setMapRoute, {
      params,
      body: { text, reason: 'branches, too', ends },
      seen,
    });
  const reply = await set(wider, shown.tag);
  assert.deepEqual([reply.version, reply.reason, reply.by], [2, 'branches, too', 'ines']);
  // What was there already is built and served: here it was known, so nothing is run.
  await serves(service, 'try-two-quays', 2);
  await serves(service, 'try-one', 3);

  const late = await refusalOf(set(shown.text, shown.tag));
  assert.deepEqual([late.code, /set anew by ines/.test(late.detail)], ['changed-since', true]);
  const faulty = await refusalOf(set(shown.text.replace('staging}', 'stagin}'), reply.tag));
  assert.deepEqual(
    [faulty.code, /there is no environment stagin/.test(faulty.detail)],
    ['map-invalid', true],
  );
  const without = wider
    .replace(', preview]', ']')
    .split('\n')
    .filter((line) => !line.includes('  preview:'))
    .join('\n');
  const vanishing = await refusalOf(set(without, reply.tag));
  assert.deepEqual(
    [vanishing.code, vanishing.environments],
    ['environments-would-end', ['try-one', 'try-two-quays']],
  );
  assert.equal((await memberPage(service, `try-one.${project}.localhost`)).status, 200);
  await set(without, reply.tag, ['try-one', 'try-two-quays']);
  assert.deepEqual(await names(service), ['production', 'staging']);

  const named = { project, variable: 'TIDE' };
  await service.operator.call(variableRoutes.setVariableRoute, {
    params: named,
    query: { environment: 'production' },
    body: { kind: 'secret', value: 'springs' },
  });
  // Another name keeps the history; the top is who stands first, whatever it is called.
  await service.promote(project);
  await changeMap(service, project, (text) =>
    text
      .replace('[production, staging]', '[harbour, staging]')
      .replace('production: {', 'harbour: {was: production, '),
  );
  const harbour = await serves(service, 'harbour', 1);
  assert.deepEqual([harbour.place, harbour.serves?.kind], [0, 'promoted']);
  const { variables } = await service.operator.call(variableRoutes.listVariablesRoute, { params });
  assert.deepEqual(
    variables.map(({ name, environment }) => [name, environment]),
    [['TIDE', 'harbour']],
    'its values go with it',
  );
  const top = await service.page(`${project}.localhost`);
  assert.deepEqual([top.status, top.headers['x-robots-tag']], [200, undefined]);
  const { versions } = await service.operator.call(mapRoutes.mapVersionsRoute, { params });
  assert.deepEqual(
    versions.map(({ version }) => version),
    [4, 3, 2, 1],
  );
});

test('three stages in a row, tags to the top, and one environment for two branches', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const page = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
  await made.push('One', page('one'));
  await changeMap(
    service,
    project,
    () => `map: stages
lanes: [quay, harbour, staging, try]
environments:
  quay: {follows: {tag: "v*"}}
  harbour: {accepts: {from: staging}}
  staging: {follows: {branch: main}}
  try: {follows: {branch: [a, b]}}
`,
    ['production'],
  );
  await made.copy.git('push', '--quiet', made.remote, 'main:a');
  await serves(service, 'try', 2);
  await made.copy.git('checkout', '--quiet', '-b', 'b');
  await made.copy.commit('Two', page('two'));
  await made.copy.git('push', '--quiet', made.remote, 'b');
  await serves(service, 'try', 3);
  await made.copy.git('tag', 'v1');
  await made.copy.git('push', '--quiet', made.remote, 'v1');
  await serves(service, 'quay', 4);
  assert.match(String((await service.page(`${project}.localhost`)).body), /two/);
  assert.match(String((await service.page(`try.${project}.localhost`)).body), /two/);
  const why = await service.operator.call(mapRoutes.whyRoute, { params, query: { ref: 'v1' } });
  assert.deepEqual(
    why.answers.map(({ rule, isMatch }) => [rule, isMatch]),
    [
      ['quay', true],
      ['harbour', false],
      ['staging', false],
      ['try', false],
    ],
  );
});

test('an environment that is sent to another branch takes what that has, and misses no commit of a time between', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const files = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
  await made.push('One', files('one'));
  await made.copy.git('checkout', '--quiet', '-b', 'harbour');
  await made.copy.commit('Two', files('two'));
  await made.copy.git('push', '--quiet', made.remote, 'harbour');
  const follow = (branch: string) =>
    changeMap(service, project, (text) =>
      text.replace(/staging: \{follows: .*\}/, `staging: {follows: {branch: ${branch}}}`),
    );
  await follow('harbour');
  await serves(service, 'staging', 2);
  await made.copy.git('checkout', '--quiet', 'main');
  await made.copy.commit('Three', files('three'));
  await made.copy.git('push', '--quiet', made.remote, 'main');
  await follow('main');
  await serves(service, 'staging', 3);
});

test('a family holds at most so many: the longest untouched ends, and a new commit brings it back', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const page = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
  await made.push('One', page('one'));
  await changeMap(service, project, (text) =>
    text.replace(
      'preview: {each: {proposed-into: main}}',
      'preview: {each: {branch: "try/*"}, at-most: 2}',
    ),
  );
  for (const name of ['a', 'b', 'c']) {
    await made.copy.git('push', '--quiet', made.remote, `main:try/${name}`);
    await until(`try-${name} is there`, async () => (await names(service)).includes(`try-${name}`));
  }
  assert.deepEqual((await names(service)).slice(2).sort(), ['try-b', 'try-c']);
  await made.copy.git('checkout', '--quiet', '-b', 'try/a');
  await made.copy.commit('Again', page('again'));
  await made.copy.git('push', '--quiet', made.remote, 'try/a');
  await until('it is back', async () => (await names(service)).includes('try-a'));
  assert.deepEqual((await names(service)).slice(2).sort(), ['try-a', 'try-c']);
  // Its history came back with it.
  const { total } = await until('it serves again', async () => {
    const history = await service.operator.call(environmentRoutes.historyRoute, {
      params: { project, environment: 'try-a' },
      query: { limit: 5 },
    });
    return history.total === 2 && history;
  });
  assert.equal(total, 2);
  const end = (environment: string) =>
    service.operator.call(mapRoutes.endEnvironmentRoute, { params: { project, environment } });
  assert.equal((await refusalOf(end('staging'))).code, 'not-a-family');
  await end('try-a');
  assert.equal((await refusalOf(end('try-a'))).code, 'not-found');
  assert.deepEqual((await names(service)).slice(2), ['try-c']);
});

test('values are given only where the map says so, by name', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await vaquero('set', project, 'MAP_KEY', '--value', 'low-water');
  const recipe = recipeOf(`echo "key is $MAP_KEY"; ${writesPage('one')}`).replace(
    '    run:',
    '    given: MAP_KEY\n    run:',
  );
  await made.push('One', { 'vaquero.yaml': recipe });
  await made.copy.git('checkout', '--quiet', '-b', 'try/one');
  await made.copy.commit('Two', { 'vaquero.yaml': recipe.replace('one', 'two') });
  await made.copy.git('push', '--quiet', made.remote, 'try/one');
  await vaquero('open-pull-request', project, 'try/one');
  const withheld = await until('the proposed build has ended', async () => {
    const said = await vaquero('build', project, '2');
    return said.out.includes('failed') && said;
  });
  assert.match(withheld.out, /MAP_KEY/);
  await changeMap(service, project, (text) =>
    text.replace('preview: {', 'preview: {gives: {build: [MAP_KEY]}, '),
  );
  await vaquero('build-again', project, '2');
  await serves(service, 'pr-1', 3);
  // A family has values of its own, by the name of its rule.
  const own = ['--value', 'spring-tide', '--environment'];
  assert.equal((await vaquero('set', project, 'MAP_KEY', ...own, 'preview')).code, 0);
  assert.equal((await vaquero('set', project, 'MAP_KEY', ...own, 'pr-1')).code, 3);
  await vaquero('build-again', project, '2');
  const log = await vaquero('log', project, '4');
  assert.match(log.out, /^key is spring-tide$/m);
});

test('the map by the command line: shown, checked, tried, set, its versions, why', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const file = join(temporaryFolder(t), 'map.yaml');
  assert.match((await vaquero('map', project)).out, /^staging +follows main +main +staging$/m);
  const { out: text } = await vaquero('map', project, '--text');
  writeFileSync(file, `${text}\n`);
  assert.match(
    (await vaquero('check-map', file)).out,
    /is in order: production, staging, preview\./,
  );
  assert.match((await vaquero('try-map', project, file)).out, /^Nothing would change\.$/m);
  writeFileSync(file, text.replace('folows', 'x').replace('follows', 'folows'));
  const faulty = await vaquero('check-map', file);
  assert.deepEqual(
    [
      faulty.code,
      /:6:13: environments\.staging\.folows is not a key of a map; did you mean “follows”\?/.test(
        faulty.err,
      ),
    ],
    [3, true],
  );
  writeFileSync(file, text.replace('branch: main', 'branch: [main, harbour]'));
  const tried = await vaquero('try-map', project, file);
  assert.match(tried.out, /^rule +staging is changed: follows main or harbour/m);
  assert.match(tried.out, /several refs go there: what is noticed last is what it serves/);
  assert.equal((await vaquero('set-map', project, file, '--yes')).code, 2);
  const set = await vaquero('set-map', project, file, '--yes', '--reason', 'the harbour office');
  assert.match(set.out, /^Version 2 of the map of timetable is in force\.$/m);
  assert.match(
    (await vaquero('map-versions', project)).out,
    /^2 .*ines +staging changed +the harbour office$/m,
  );
  assert.equal((await vaquero('map-versions', project, '1')).out, text);
  assert.equal((await vaquero('map-versions', project, '9')).code, 3);
  const why = await vaquero('why', project, 'harbour');
  assert.match(why.out, /^harbour: staging follows harbour$/m);
  assert.match(why.out, /^at +nothing: the repository has no such ref now$/m);
  assert.match(why.out, /^no +production: it takes no ref: it accepts from staging$/m);
});
