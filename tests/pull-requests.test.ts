import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, projectRoutes, pullRequestRoutes, variableRoutes } from '@vaquero/contracts';
import type { CommitId } from '@vaquero/core';
import { startGitHost } from '@vaquero/standins';
import { temporaryFolder, until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { makeWorkingCopy } from './support/working-copy.ts';

const params = { project: 'timetable' };
const open = (
  { operator }: Pick<TestService, 'operator'>,
  branch: string,
  place: string | null = null,
) =>
  operator.call(pullRequestRoutes.openPullRequestRoute, {
    params,
    body: { branch, place, title: `About ${branch}` },
  });
const show = ({ operator }: TestService, name = 'pr-1') =>
  operator.call(pullRequestRoutes.showPullRequestRoute, { params: { ...params, name } });
const giveWord = (service: Pick<TestService, 'operator'>, commit: string, name = 'pr-1') =>
  service.operator.call(pullRequestRoutes.giveWordRoute, {
    params: { ...params, name },
    body: { commit: commit as CommitId },
  });
const numbersOf = async ({ operator }: TestService) => {
  const query = { limit: 50 };
  const { builds } = await operator.call(buildRoutes.listBuildsRoute, { params, query });
  return builds.map((build) => build.number).toReversed();
};

const forPulls = 'for: {branch: main, proposed-into: main}\n';
const pages = (text: string, more = '') => ({
  'page.html': text,
  'vaquero.yaml': `${forPulls}steps:
  pages: {run: cp page.html out/index.html, reads: page.html, writes: out}
  links: {run: echo checked, after: pages, reads: [], for: {branch: main}}
${more}serve: {site: out}
`,
});

test('a pull request is built where a recipe is for its target, and its merge is not built again', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const files = pages('winter');
  await made.push('Winter', {
    ...files,
    'vaquero.yaml': files['vaquero.yaml'].replace(/.*links.*\n/, ''),
  });
  await made.copy.git('checkout', '--quiet', '-b', 'try/lines');
  const first = await made.copy.commit('Lines', { 'page.html': 'lines' });
  await made.copy.git('push', '--quiet', made.remote, 'try/lines');
  assert.deepEqual(await numbersOf(service), [1], 'no recipe is for that branch by itself');

  const opened = await open(service, 'try/lines');
  assert.equal(opened.name, 'pr-1');
  assert.deepEqual([opened.head?.commit, opened.ahead, opened.outsider], [first, 1, false]);
  assert.deepEqual((await refusalOf(open(service, 'try/lines'))).code, 'pull-request-open');
  const build = await service.buildEnded('timetable', 2);
  assert.deepEqual(
    [build.state, build.ref, build.pullRequest, build.cause],
    [
      'passed',
      'refs/proposed/1',
      { name: 'pr-1', into: 'main', outsider: false },
      'new commit in pr-1',
    ],
  );
  assert.match(build.destination, /no environment wants pr-1: staging follows main/);
  assert.match((await show(service)).says, /Build 2 of its head passed/);

  const second = await made.copy.commit('More lines', { 'page.html': 'more lines' });
  await made.copy.git('push', '--quiet', made.remote, 'try/lines');
  assert.equal((await show(service)).head?.commit, second, 'a push moves it before it returns');
  assert.equal((await service.buildEnded('timetable', 3)).commit.id, second);

  // Anybody may fetch its head, and nobody but the service may set it.
  await made.copy.git('fetch', '--quiet', made.remote, 'refs/proposed/1');
  assert.equal(await made.copy.git('rev-parse', 'FETCH_HEAD'), second);
  await assert.rejects(
    made.copy.git('push', '--quiet', made.remote, `+${first}:refs/proposed/1`),
    /hidden ref/,
  );

  // The merge commit is another commit with the same tree.
  await made.copy.git('checkout', '--quiet', 'main');
  await made.copy.git('merge', '--quiet', '--no-ff', '--message', 'Merge the lines', 'try/lines');
  await made.copy.git('push', '--quiet', made.remote, 'main');
  const merged = await service.buildEnded('timetable', 4);
  assert.deepEqual(
    [merged.state, merged.reusedFrom, merged.commit.subject, merged.pullRequest],
    ['reused', 3, 'Merge the lines', null],
  );
  const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
  assert.equal(page.text, 'more lines');
  const ended = await show(service);
  assert.deepEqual([ended.state, ended.says], ['merged', 'Its commits are in main.']);
  assert.equal((await refusalOf(giveWord(service, second))).code, 'pull-request-ended');
});

test('a branch and its pull request that want the same inputs are built once', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const recipe = pages('x')['vaquero.yaml'].replace('branch: main', 'branch: [main, "try/*"]');
  await made.push('On main', { ...pages('x'), 'vaquero.yaml': recipe });
  await made.copy.git('checkout', '--quiet', '-b', 'try/signs');
  await made.copy.commit('Signs', { 'page.html': 'signs' });
  await made.copy.git('push', '--quiet', made.remote, 'try/signs');
  await service.buildEnded('timetable', 2);
  await open(service, 'try/signs');
  const known = await service.buildEnded('timetable', 3);
  assert.deepEqual([known.state, known.reusedFrom], ['reused', 2], 'known when it is opened');
  await made.copy.commit('More signs', { 'page.html': 'more signs' });
  await made.copy.git('push', '--quiet', made.remote, 'try/signs');
  const both = await service.buildEnded('timetable', 4);
  assert.deepEqual([both.ref, both.state], ['refs/heads/try/signs', 'passed']);
  assert.deepEqual(await numbersOf(service), [1, 2, 3, 4]);
  assert.deepEqual(
    (await show(service)).builds.map((one) => one.number),
    [4],
  );
  // A branch that goes away without a merge closes what it proposed.
  await made.copy.git('push', '--quiet', made.remote, ':try/signs');
  const closed = await until('it is closed', async () => {
    const seen = await show(service);
    return seen.state !== 'open' && seen;
  });
  assert.equal(closed.state, 'closed');
});

test('a squash is known by its inputs though it is no merge; a branch is proposed to each target apart', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const { copy, remote } = made;
  const recipe = pages('x')['vaquero.yaml'].replace(/.*links.*\n/, '');
  await made.push('First', { 'page.html': 'x', 'vaquero.yaml': recipe });
  await copy.git('push', '--quiet', remote, 'main:refs/heads/next');
  await copy.git('checkout', '--quiet', '-b', 'try/print');
  await copy.commit('Print', { 'page.html': 'print' });
  await copy.commit('Print, better', { 'page.html': 'print, better' });
  await copy.git('push', '--quiet', remote, 'try/print');
  const toMain = await open(service, 'try/print');
  const toNext = await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params,
    body: { branch: 'try/print', into: 'next', title: 'Print, next' },
  });
  assert.deepEqual([toMain.name, toNext.name, toNext.into], ['pr-1', 'pr-2', 'next']);
  assert.deepEqual(
    toMain.commits.map((one) => one.subject),
    ['Print, better', 'Print'],
  );
  assert.deepEqual(toMain.files, [{ path: 'page.html', added: 1, removed: 1 }]);
  assert.equal((await service.buildEnded('timetable', 2)).ref, 'refs/proposed/1');
  assert.deepEqual(toNext.pushes, [], 'no recipe is for what goes into next');

  await copy.git('checkout', '--quiet', 'main');
  await copy.git('merge', '--quiet', '--squash', 'try/print');
  await copy.commit('Print, in one', {});
  await copy.push(remote);
  const squashed = await service.buildEnded('timetable', 3);
  assert.deepEqual([squashed.state, squashed.reusedFrom], ['reused', 2]);
  assert.equal((await show(service)).state, 'open');
  await copy.git('push', '--quiet', remote, 'try/print:next');
  assert.equal((await show(service, 'pr-2')).state, 'merged');

  // Closed, it follows its branch no more; opened again it is another one.
  const name = { params: { ...params, name: 'pr-1' } };
  await service.operator.call(pullRequestRoutes.closePullRequestRoute, name);
  await copy.git('checkout', '--quiet', 'try/print');
  await copy.commit('Print, once more', { 'page.html': 'once more' });
  await copy.git('push', '--quiet', remote, 'try/print');
  assert.deepEqual(await numbersOf(service), [1, 2, 3]);
  assert.equal((await open(service, 'try/print')).name, 'pr-3');
  assert.equal((await service.buildEnded('timetable', 4)).ref, 'refs/proposed/3');
  const { pullRequests } = await service.operator.call(pullRequestRoutes.listPullRequestsRoute, {
    params,
  });
  assert.deepEqual(
    pullRequests.map((one) => [one.name, one.state]),
    [
      ['pr-3', 'open'],
      ['pr-1', 'closed'],
      ['pr-2', 'merged'],
    ],
  );
});

/** A step that says what an earlier build has left in its cache and its tree, and leaves its own mark in both. */
const cached = `${forPulls}steps:
  count: {run: wc -c < rates.txt > sums/rates, reads: rates.txt, writes: sums}
  board:
    run: |
      cat ~/.board/mark || echo nothing cached
      test ! -e left.txt || echo found what was left
      mkdir out && cp page.html out/index.html
      cp word.txt ~/.board/mark && cp word.txt left.txt && echo spoilt > page.html
    after: count
    caches: [~/.board]
serve: {site: out}
`;

test('an outsider’s commit is built on a member’s word, and shares nothing with trusted builds', async (t) => {
  // One slot: caches and kept trees belong to slots.
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_SLOTS: '1' } });
  const made = await service.project('timetable');
  const files = {
    'page.html': 'x',
    'word.txt': 'trusted',
    'rates.txt': '12',
    'vaquero.yaml': cached,
  };
  const before = await made.push('First', files);
  assert.equal(before.state, 'passed', JSON.stringify(before.failure));
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'fares');
  const first = await fork.commit('Fares', { 'word.txt': 'outsider', 'page.html': 'fares' });

  const opened = await open(service, 'fares', fork.folder);
  assert.deepEqual([opened.outsider, opened.head?.commit, opened.word], [true, first, null]);
  assert.match(opened.says, /Waits for a member’s word/);
  assert.deepEqual(await numbersOf(service), [1]);
  const reader = await service.person('petra', 'reader', 'timetable');
  const refusal = await refusalOf(giveWord({ operator: reader.client }, first));
  assert.equal(refusal.code, 'not-allowed');

  // The word is for the commit that was looked at, not for what came after it.
  const second = await fork.commit('More fares', { 'page.html': 'more fares' });
  await until('the new commit is seen', async () => (await show(service)).head?.commit === second);
  assert.equal((await refusalOf(giveWord(service, first))).code, 'pull-request-moved');
  const builder = await service.person('wren', 'builder', 'timetable');
  const given = await giveWord({ operator: builder.client }, second);
  assert.equal(given.word?.by, 'wren');
  assert.deepEqual(await numbersOf(service), [1, 2]);
  await giveWord(service, second);
  assert.deepEqual(await numbersOf(service), [1, 2], 'a word is given once');

  const logOf = async (number: number) => {
    const call = { params: { ...params, build: number }, query: { limit: 100 } };
    const { lines } = await service.operator.call(buildRoutes.logLinesRoute, call);
    return lines.map((line) => line.text);
  };
  const build = await service.buildEnded('timetable', 2);
  assert.deepEqual([build.state, build.pullRequest?.outsider], ['passed', true]);
  assert.equal(build.cause, 'on the word of wren');
  assert.ok((await logOf(2)).includes('nothing cached'));
  const states = (reply: typeof build) => reply.steps.map(({ name, state }) => [name, state]);
  assert.ok(
    states(build).some(([name, state]) => name === 'count' && state === 'passed'),
    'what a trusted build knows of the very step is not its own',
  );

  // Its own next commit may find what it left; trusted builds find only what trusted ones did.
  const third = await fork.commit('Fares again', { 'page.html': 'again' });
  await until('the next commit is seen', async () => (await show(service)).head?.commit === third);
  await giveWord(service, third);
  const next = await service.buildEnded('timetable', 3);
  assert.ok((await logOf(3)).includes('outsider'));
  assert.ok(states(next).some(([name, state]) => name === 'count' && state === 'reused'));

  // Merged, the same tree is built afresh: an outsider's result answers for no trusted one.
  await made.copy.git('pull', '--quiet', fork.folder, 'fares');
  await made.copy.git('push', '--quiet', made.remote, 'main');
  const merged = await service.buildEnded('timetable', 4);
  assert.deepEqual([merged.state, merged.commit.id], ['passed', third]);
  const said = await logOf(4);
  assert.ok(said.includes('trusted') && !said.includes('found what was left'));
  const page = await service.page(`staging.timetable.localhost:${service.edgePort}`);
  assert.equal(page.text, 'again');
  assert.ok(states(merged).some(([name, state]) => name === 'count' && state === 'reused'));
  assert.equal((await show(service)).state, 'merged');
});

test('code of a pull request is given no value, and an outsider’s nothing from the machine’s folders', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await service.operator.call(variableRoutes.setVariableRoute, {
    params,
    body: { name: 'MAP_KEY', kind: 'secret', value: 'kettle-and-tide' },
  });
  const given = (text: string, rule: string) => ({
    'page.html': text,
    'vaquero.yaml': `${forPulls}steps:
  pages: {run: mkdir -p out && cp page.html out/index.html}
  map: {run: 'test "$MAP_KEY" = kettle-and-tide', given: MAP_KEY, after: pages${rule}}
serve: {site: out}
`,
  });
  assert.equal((await made.push('First', given('x', ', for: {branch: main}'))).state, 'passed');
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'map');
  await fork.commit('Without the map', { 'page.html': 'y' });
  const { head } = await open(service, 'map', fork.folder);
  await giveWord(service, head?.commit ?? '');
  const without = await service.buildEnded('timetable', 2);
  assert.equal(without.state, 'passed', 'the step that reads it is for main only');

  const asking = await fork.commit('With the map', given('z', ''));
  await until('it is seen', async () => (await show(service)).head?.commit === asking);
  await giveWord(service, asking);
  const refused = await service.buildEnded('timetable', 3);
  assert.deepEqual(refused.reason, {
    reason: 'names-withheld',
    names: ['MAP_KEY'],
    pullRequest: 'pr-1',
  });
  assert.equal(refused.startedAt, refused.endedAt, 'nothing ran');
  // A pull request of the repository itself is sent nowhere by the map either.
  await made.copy.git('checkout', '--quiet', '-b', 'own');
  await made.copy.commit('Own', given('own', ''));
  await made.copy.git('push', '--quiet', made.remote, 'own');
  await open(service, 'own');
  assert.equal((await service.buildEnded('timetable', 4)).reason?.reason, 'names-withheld');

  const secret = await makeWorkingCopy(join(service.state, 'roots', 'private'));
  const object = await secret.commit('Private', { 'plan.txt': 'not for them' });
  await fork.commit('A look around', {
    ...given('x', ', for: {branch: main}'),
    '.gitmodules': `[submodule "plan"]\n\tpath = plan\n\turl = ${secret.folder}\n`,
  });
  await fork.git('update-index', '--add', '--cacheinfo', `160000,${object},plan`);
  await fork.git('commit', '--quiet', '--amend', '--no-edit');
  const reaching = await fork.git('rev-parse', 'HEAD');
  await until('it is seen', async () => (await show(service)).head?.commit === reaching);
  await giveWord(service, reaching);
  const end = await service.buildEnded('timetable', 5);
  assert.match(end.failure?.why ?? '', /an outsider’s commit is given nothing from this machine’s/);
});

test('only an operator sends the service to a place that the repository does not come from', async (t) => {
  const service = await startTestService(t, { roles: [] });
  const made = await service.project('timetable');
  await made.copy.commit('First', pages('x'));
  await made.copy.push(made.remote);
  const builder = await service.person('wren', 'builder', 'timetable');
  const asBuilder = { operator: builder.client };
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'fares');
  await fork.commit('Fares', { 'page.html': 'fares' });
  const codeOf = async (call: Promise<unknown>) => (await refusalOf(call)).code;
  assert.equal(await codeOf(open(asBuilder, 'fares', fork.folder)), 'place-not-allowed');
  assert.equal(await codeOf(open(asBuilder, 'fares', 'http://127.0.0.1:1/x')), 'place-not-allowed');
  assert.equal(await codeOf(open(service, 'fares', 'ssh://elsewhere/x')), 'invalid-request');
  assert.equal(await codeOf(open(service, 'none', fork.folder)), 'branch-missing');
  assert.equal(await codeOf(open(service, 'none')), 'branch-missing');
  assert.equal(await codeOf(open(service, 'main')), 'invalid-request');
  assert.equal(await codeOf(open(service, 'fares', '/etc')), 'path-not-allowed');
  assert.equal(await codeOf(show(service, 'pr-7')), 'not-found');
  const opened = await open(service, 'fares', fork.folder);
  assert.equal(opened.outsider, true);
  const closed = await builder.client.call(pullRequestRoutes.closePullRequestRoute, {
    params: { ...params, name: 'pr-1' },
  });
  assert.equal(closed.state, 'closed');
  const again = builder.client.call(pullRequestRoutes.closePullRequestRoute, {
    params: { ...params, name: 'pr-1' },
  });
  assert.equal(await codeOf(again), 'pull-request-ended');
});

test('a branch on a host that goes away keeps its head, with the reason, until the host is back', async (t) => {
  const service = await startTestService(t, { roles: [] });
  const made = await service.project('timetable');
  await made.copy.commit('First', pages('x'));
  await made.copy.push(made.remote);
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = await host.repository('fork');
  await made.copy.git('checkout', '--quiet', '-b', 'fares');
  const head = await made.copy.commit('Fares', { 'page.html': 'fares' });
  await made.copy.git('push', '--quiet', folder, 'fares');
  assert.equal((await open(service, 'fares', url)).head?.commit, head);
  host.behave('broken');
  const broken = await until('the trouble is said', async () => {
    const seen = await show(service);
    return seen.trouble !== null && seen;
  });
  assert.deepEqual([broken.state, broken.head?.commit], ['open', head]);
  // One that takes questions and never answers holds up nobody's look, by a push or by a person.
  host.behave('silent');
  await made.copy.git('checkout', '--quiet', 'main');
  const next = await made.copy.commit('Second', { 'page.html': 'y' });
  await made.copy.push(made.remote);
  assert.deepEqual(await numbersOf(service), [1, 2], 'the push was looked at before it returned');
  const seen = await service.operator.call(projectRoutes.lookRoute, { params });
  assert.equal(seen.head?.commit, next);
  host.behave('open');
  // It is asked less and less often while it does not answer.
  await until('it is read again', async () => (await show(service)).trouble === null, {
    withinMs: 60_000,
  });
  await made.copy.git('push', '--quiet', folder, ':fares');
  await until('its branch is gone', async () => (await show(service)).state === 'closed');
});
