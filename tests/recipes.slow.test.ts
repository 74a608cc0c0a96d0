import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, evidenceRoutes, projectRoutes } from '@vaquero/contracts';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { makeWorkingCopy } from './support/working-copy.ts';

const listed = async (service: TestService, project: string) => {
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
    params: { project },
    query: { limit: 50 },
  });
  return builds.toSorted((a, b) => a.number - b.number);
};
const show = (service: TestService, project: string, build: number) =>
  service.operator.call(buildRoutes.showBuildRoute, { params: { project, build } });

const site = (more = '') =>
  `${more}steps:\n  pages: {run: cp page.html out/index.html, reads: page.html, writes: out}\nserve: {site: out}\n`;

test('several recipes build one commit: one publishes, the others make evidence, each for its own refs', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const rules = `for: {branch: [main, "try/*"]}
steps:
  words: {run: "mkdir -p reports && printf 'TAP version 13\\n1..1\\nok 1 words\\n' > reports/words.tap", results: {tests: "reports/*.tap"}}
`;
  await made.copy.commit('Two recipes', {
    'page.html': 'tide',
    'vaquero.yaml': site(),
    '.vaquero/rules.yaml': rules,
  });
  await made.copy.push(made.remote);
  const both = await until('both are built', async () => {
    const builds = await listed(service, 'timetable');
    return builds.length === 2 && builds.every((build) => build.endedAt !== null) && builds;
  });
  assert.deepEqual(
    both.map((build) => [build.number, build.recipeName, build.state, build.artifact !== null]),
    [
      [1, 'site', 'passed', true],
      [2, 'rules', 'passed', false],
    ],
  );
  const evidence = await show(service, 'timetable', 2);
  assert.equal(evidence.evidence.tests[0]?.total, 1);
  assert.match(evidence.destination, /evidence only/);
  assert.deepEqual(
    evidence.steps.map((step) => step.name),
    ['fetch', 'words'],
  );
  const published = await show(service, 'timetable', 1);
  assert.deepEqual(published.siblings, [
    { number: 2, recipe: 'rules', wantedBy: [], state: 'passed' },
  ]);

  // A branch that the map does not send: only the recipe that asks for it builds.
  await made.copy.git('push', '--quiet', made.remote, 'main:refs/heads/try/lines');
  const third = await service.buildEnded('timetable', 3);
  assert.deepEqual([third.recipeName, third.ref], ['rules', 'refs/heads/try/lines']);
  // Of the same inputs: its evidence is that of the build that ran.
  assert.deepEqual([third.state, third.reusedFrom, third.artifact], ['reused', 2, null]);
  assert.equal(third.evidence.tests[0]?.total, 1);
  // Again builds by the same recipe.
  const again = await service.operator.call(buildRoutes.buildAgainRoute, {
    params: { project: 'timetable' },
    body: { build: 2, earlier: 'used' },
  });
  assert.equal(again.recipeName, 'rules');
  assert.equal((await service.buildEnded('timetable', again.number)).state, 'passed');

  // Evidence that fails leaves the site alone.
  await made.copy.commit('A rule is broken', {
    '.vaquero/rules.yaml': 'steps: {words: {run: echo a word is wrong; exit 3}}\n',
    'page.html': 'ebb',
  });
  await made.copy.push(made.remote);
  const failed = await service.buildEnded('timetable', 6);
  assert.deepEqual([failed.recipeName, failed.state], ['rules', 'failed']);
  assert.equal((await service.buildEnded('timetable', 5)).state, 'passed');
  await until('staging serves it', async () => {
    const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
    return page.text === 'ebb';
  });
});

test('recipes that cannot stand beside each other, or forgot what they publish, fail with the file and the cure', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const made = await service.project('timetable');
  const cases: readonly (readonly [Record<string, string | null>, RegExp])[] = [
    [
      { 'vaquero.yaml': site(), '.vaquero/docs.yaml': site() },
      /\.vaquero\/docs\.yaml.*publishes for refs\/heads\/main, and so does vaquero\.yaml.*narrow one/s,
    ],
    [
      { '.vaquero/docs.yaml': site('recipe: site\nfor: {branch: other}\n') },
      /\.vaquero\/docs\.yaml.*line 1, column 1.*the name of another recipe/s,
    ],
    [
      { '.vaquero/docs.yaml': null, 'vaquero.yaml': 'steps: {pages: {run: "true"}}\n' },
      /vaquero\.yaml.*serve.*is missing.*serve: nothing/s,
    ],
    [{ 'vaquero.yaml': site(), '.vaquero/x.yaml': 'steps: {a: {rum: x}}\n' }, /did you mean “run”/],
  ];
  for (const [place, [files, said]] of cases.entries()) {
    await made.copy.commit(`Case ${place}`, { 'page.html': `${place}`, ...files });
    const before = (await listed(service, 'timetable')).length;
    await made.copy.push(made.remote);
    const failed = await until('a build fails', async () => {
      const fresh = (await listed(service, 'timetable')).slice(before);
      return fresh.find((build) => build.state === 'failed');
    });
    const { what, why } = failed.failure ?? { what: '', why: '' };
    assert.match(`${what} ${why}`, said);
  }
});

test('a step is borrowed from another project at one commit, with parameters that are checked', async (t) => {
  const service = await startTestService(t);
  const house = await service.project('house-steps');
  const lent = `steps:
  stamp:
    lends: {word: text, times: {takes: number, default: 1}, tone: {one-of: [plain, storm], default: plain}}
    run: for i in $(seq $PARAM_TIMES); do echo "$PARAM_WORD $PARAM_TONE" >> stamped/words.txt; done
    reads: page.html
    writes: stamped
  own: {run: "true"}
serve: {site: .}
`;
  const first = await house.copy.commit('Lend a step', { 'vaquero.yaml': lent, 'index.html': 'x' });
  await house.copy.push(house.remote);
  await service.buildEnded('house-steps', 1);

  const made = await service.project('timetable');
  const borrowing = (said: string, step = 'stamp', commit = first) => `steps:
  marks: {borrows: {project: house-steps, step: ${step}, commit: "${commit}"}, params: ${said}}
  pages: {after: marks, run: cat stamped/words.txt > out/index.html, reads: page.html, writes: out}
serve: {site: out}
`;
  const build = await made.push('Borrow', {
    'page.html': 'p',
    'vaquero.yaml': borrowing('{word: tide, times: 2, tone: storm}'),
  });
  assert.equal(build.failure, null);
  const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
  assert.equal(page.text, 'tide storm\ntide storm\n');
  assert.equal(
    build.recipe?.recipe.steps.find((step) => step.name === 'marks')?.borrows?.commit,
    first,
  );

  const envelope = await service.operator.call(evidenceRoutes.provenanceRoute, {
    params: { project: 'timetable', build: 1 },
  });
  const statement = JSON.parse(Buffer.from(envelope.payload, 'base64').toString()) as {
    predicate: { buildDefinition: { resolvedDependencies: unknown[] } };
  };
  assert.deepEqual(statement.predicate.buildDefinition.resolvedDependencies.at(-1), {
    name: 'step marks',
    uri: `git+${service.origin}/git/house-steps.git`,
    digest: { gitCommit: first },
  });

  // What the lender does later changes nothing; a parameter that changes runs the step again.
  await house.copy.commit('Lend otherwise', { 'vaquero.yaml': lent.replace('$PARAM_TONE', 'x') });
  await house.copy.push(house.remote);
  const other = await made.push('Once', { 'vaquero.yaml': borrowing('{word: ebb}') });
  assert.equal(other.steps.find((step) => step.name === 'marks')?.state, 'passed');
  assert.equal(
    (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text,
    'ebb plain\n',
  );

  const cases: readonly (readonly [string, RegExp])[] = [
    [
      borrowing('{word: tide, times: many}'),
      /line 2, column \d+: steps\.marks\.params\.times must be a number/,
    ],
    [borrowing('{times: 2}'), /params\.word must be said: a text/],
    [
      borrowing('{word: x, depth: 2}'),
      /params\.depth is no parameter of it; it takes word, times, tone/,
    ],
    [borrowing('{word: x, tone: loud}'), /params\.tone must be one of plain, storm/],
    [borrowing('{word: x}', 'own'), /borrows\.step is not lent there; house-steps lends stamp/],
    [borrowing('{word: x}', 'gone'), /borrows\.step is not lent there; house-steps lends stamp/],
    [
      borrowing('{word: x}', 'stamp', 'a'.repeat(40)),
      /borrows\.project "house-steps" lends nothing at that commit/,
    ],
    [
      borrowing('{word: x}').replace('project: house-steps', 'project: nobody'),
      /"nobody" lends nothing at that commit/,
    ],
    [borrowing('{word: x}', 'stamp', 'main'), /must be a whole commit id/],
    [borrowing('{word: x}').replace('params:', 'run: x, params:'), /run stands at the lender/],
  ];
  for (const [recipe, said] of cases) {
    const failed = await made.push('Wrong', { 'vaquero.yaml': recipe });
    assert.equal(failed.state, 'failed');
    assert.match(failed.failure?.why ?? '', said);
  }
});

test('submodules come at their recorded commits, and from nowhere but where the service may fetch', async (t) => {
  const service = await startTestService(t);
  const roots = join(service.state, 'roots');
  const inner = await makeWorkingCopy(join(roots, 'inner'));
  await inner.commit('Inner', { 'deep.txt': 'deep' });
  const lines = await makeWorkingCopy(join(roots, 'lines'));
  await lines.git(
    '-c',
    'protocol.file.allow=always',
    'submodule',
    '--quiet',
    'add',
    '../inner',
    'in',
  );
  const recorded = await lines.commit('Lines', { 'words.txt': 'recorded' });
  const copy = await makeWorkingCopy(join(roots, 'site'));
  const add = (url: string, path: string) =>
    copy.git('-c', 'protocol.file.allow=always', 'submodule', '--quiet', 'add', url, path);
  await add('../lines', 'vendor/lines');
  await copy.commit('With a submodule', {
    'vaquero.yaml':
      'steps: {pages: {run: cat vendor/lines/words.txt vendor/lines/in/deep.txt page.txt > out/index.html, reads: [vendor/lines, page.txt], writes: out}}\nserve: {site: out}\n',
    'page.txt': ' page',
  });
  // The submodule goes on; the commit that the tree records is what is built.
  await lines.commit('Later', { 'words.txt': 'later' });
  await service.operator.call(projectRoutes.makeProjectRoute, {
    body: { name: 'signs', repository: { kind: 'path', path: copy.folder } },
  });
  const host = `staging.signs.localhost:${service.edgePort}`;
  const served = (text: string) =>
    until(`${text} is served`, async () => (await service.page(host)).text === text);
  assert.equal((await service.buildEnded('signs', 1)).failure, null);
  await served('recordeddeep page');

  // Only a page changed: the tree is made from the one before, with the submodule in it.
  await copy.commit('A page', { 'page.txt': ' other' });
  assert.equal((await service.buildEnded('signs', 2)).failure, null);
  await served('recordeddeep other');

  // The submodule moved on: its commit is another input, and its files are the new ones.
  await copy.git('-C', 'vendor/lines', 'fetch', '--quiet', 'origin');
  await copy.git('-C', 'vendor/lines', 'checkout', '--quiet', 'origin/main');
  await copy.commit('Newer lines', {});
  const moved = await service.buildEnded('signs', 3);
  assert.equal(moved.steps.find((step) => step.name === 'pages')?.state, 'passed');
  await served('laterdeep other');
  assert.notEqual(await lines.git('rev-parse', 'HEAD'), recorded);

  const refusedFor = async (number: number, url: string): Promise<string> => {
    await copy.git('config', '--file', '.gitmodules', 'submodule.vendor/lines.url', url);
    // Another commit of it, so that what is kept already does not answer.
    await lines.commit(`For ${number}`, { 'words.txt': url });
    await copy.git('-C', 'vendor/lines', 'fetch', '--quiet', 'origin');
    await copy.git('-C', 'vendor/lines', 'checkout', '--quiet', 'origin/main');
    await copy.commit(`From ${url}`, {});
    const build = await service.buildEnded('signs', number);
    assert.equal(build.state, 'failed');
    return build.failure?.why ?? '';
  };
  assert.match(await refusedFor(4, '/etc'), /below a folder that the operator opened/);
  assert.match(
    await refusedFor(5, 'http://127.0.0.1:1/x.git'),
    /only from the host of the repository/,
  );
  assert.match(await refusedFor(6, 'ext::sh -c id'), /only from the host of the repository/);
  assert.match(await refusedFor(7, '../inner'), /could not be fetched/);
});
