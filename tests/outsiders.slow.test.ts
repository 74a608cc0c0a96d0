import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import { mkdirSync, readdirSync, utimesSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, projectRoutes, pullRequestRoutes, variableRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { startGitHost } from '@vaquero/standins';
import { memberPage } from './support/admission.ts';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { temporaryFolder, until } from './support/place.ts';
import {
  forPulls,
  giveWord,
  numbersOf,
  open,
  pages,
  params,
  show,
} from './support/pull-requests.ts';
import { onSchedule } from './support/schedule.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { makeWorkingCopy } from './support/working-copy.ts';

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

  // It is looked at by its build's own address, which says whose code it is, and by members alone.
  const { seenAt, preview } = await show(service);
  const own = `build-2.timetable.artifacts.localhost:${service.edgePort}`;
  assert.deepEqual([preview, seenAt?.build, seenAt?.address], [null, 2, `http://${own}`]);
  assert.equal((await service.page(own)).status, 401);
  const looked = await memberPage(service, own);
  assert.deepEqual([looked.status, looked.headers['vaquero-code-of']], [200, 'an outsider']);

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
  const host = `staging.timetable.localhost:${service.edgePort}`;
  await until('staging serves it', async () => (await service.page(host)).text === 'again');
  assert.ok(states(merged).some(([name, state]) => name === 'count' && state === 'reused'));
  assert.equal((await show(service)).state, 'merged');
});

test('code of a pull request is given no value, and an outsider’s nothing from the machine’s folders', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await service.operator.call(variableRoutes.setVariableRoute, {
    params: { ...params, variable: 'MAP_KEY' },
    body: { kind: 'secret', value: 'kettle-and-tide' },
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
    params: { ...params, pullRequest: 'pr-1' },
  });
  assert.equal(closed.state, 'closed');
  const again = builder.client.call(pullRequestRoutes.closePullRequestRoute, {
    params: { ...params, pullRequest: 'pr-1' },
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

test('a branch that brings more than is taken is refused by its size, and leaves nothing behind', async (t) => {
  const service = await startTestService(t, {
    roles: [],
    environment: { VAQUERO_OUTSIDER_FETCH_MB: '1' },
  });
  const made = await service.project('timetable');
  await made.copy.commit('First', pages('x'));
  await made.copy.push(made.remote);
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'chart');
  const small = await fork.commit('A chart', { 'chart.txt': 'small' });
  assert.equal((await open(service, 'chart', fork.folder)).head?.commit, small);
  const [stored = ''] = readdirSync(join(service.state, 'repositories'));
  const objects = join(service.state, 'repositories', stored, 'objects');
  // As a process leaves it that was killed hours ago.
  const old = join(objects, 'tmp_objdir-fetch-old');
  mkdirSync(old);
  utimesSync(old, 0, 0);
  const noise = randomBytes(3 << 19).toString('hex');
  await fork.commit('A large chart', { 'chart.txt': noise });
  const refused = await until('its size is said', async () => {
    const seen = await show(service);
    return seen.trouble !== null && seen;
  });
  assert.match(refused.trouble ?? '', /brings more than the 1 MiB that are taken/);
  assert.deepEqual([refused.state, refused.head?.commit], ['open', small]);
  const left = readdirSync(objects, { recursive: true }).map(String);
  assert.deepEqual(
    left.filter((name) => /tmp_/.test(name)),
    [],
  );
  // It is not asked for again; a smaller one in its place is.
  await fork.git('reset', '--quiet', '--hard', small);
  const next = await fork.commit('A smaller chart', { 'chart.txt': 'smaller' });
  await until('it is read again', async () => (await show(service)).head?.commit === next, {
    withinMs: 30_000,
  });
  assert.equal((await show(service)).trouble, null);
});

test('of two words at once one builds, and what an outsider’s recipe says of schedules is nobody’s plan', async (t) => {
  let now = Date.parse('2026-11-23T05:00:00Z');
  const service = await startTestService(t, { clock: () => now as Instant });
  const made = await service.project('timetable');
  const files = { 'page.html': 'x', 'vaquero.yaml': pages('x')['vaquero.yaml'] };
  await made.push('First', files);
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'often');
  const often = `again: {cron: "*/5 * * * *", branch: main}\n${files['vaquero.yaml']}`;
  const commit = await fork.commit('Build often', { 'vaquero.yaml': often });
  await open(service, 'often', fork.folder);
  const people = await Promise.all(
    ['wren', 'petra'].map((name) => service.person(name, 'builder', 'timetable')),
  );
  const given = await Promise.all(
    people.map(({ client }) => giveWord({ operator: client }, commit)),
  );
  assert.equal(given[0]?.word?.by, given[1]?.word?.by, 'the word of one of them counts');
  assert.deepEqual(await numbersOf(service), [1, 2]);
  const build = await service.buildEnded('timetable', 2);
  assert.equal(build.recipe?.recipe.again?.cron, '*/5 * * * *');

  now = Date.parse('2026-11-23T06:00:00Z');
  await onSchedule(service);
  assert.deepEqual(await numbersOf(service), [1, 2], 'a schedule that is only proposed is none');
  // Merged, it is what the project does: built afresh then, and again when it is due.
  await made.copy.git('pull', '--quiet', fork.folder, 'often');
  await made.copy.git('push', '--quiet', made.remote, 'main');
  assert.equal((await service.buildEnded('timetable', 3)).pullRequest, null);
  now = Date.parse('2026-11-23T07:00:00Z');
  await onSchedule(service);
  assert.match((await service.buildEnded('timetable', 4)).cause, /by its schedule/);
});

test('a builder may name the repository’s own host, which cannot send the service on to another one', async (t) => {
  const service = await startTestService(t, { roles: [] });
  const [own, other] = await Promise.all(
    ['own', 'other'].map((name) => startGitHost(join(temporaryFolder(t), name))),
  );
  if (own === undefined || other === undefined) return assert.fail('no hosts');
  t.after(own.stop);
  t.after(other.stop);
  const site = await own.repository('timetable');
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('First', pages('x'));
  await copy.git('push', '--quiet', site.folder, 'main');
  await service.operator.call(projectRoutes.makeProjectRoute, {
    body: { name: 'timetable', repository: { kind: 'http', url: site.url } },
  });
  await copy.git('checkout', '--quiet', '-b', 'fares');
  await copy.commit('Fares', { 'page.html': 'fares' });
  const [here, there] = [await own.repository('fork'), await other.repository('fork')];
  for (const { folder } of [here, there]) await copy.git('push', '--quiet', folder, 'fares');
  const builder = await service.person('wren', 'builder', 'timetable');
  const asBuilder = { operator: builder.client };
  assert.equal((await refusalOf(open(asBuilder, 'fares', there.url))).code, 'place-not-allowed');
  own.redirectTo(other.origin);
  const sentOn = await refusalOf(open(asBuilder, 'fares', here.url));
  assert.equal(sentOn.code, 'repository-unreachable');
  own.redirectTo(null);
  assert.equal((await open(asBuilder, 'fares', here.url)).outsider, true);
});

test('where the map says never, no word builds what outsiders propose, and nothing waits for one', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('First', pages('x'));
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'fares');
  const commit = await fork.commit('Fares', pages('y'));
  assert.equal((await open(service, 'fares', fork.folder)).takesWord, true);
  const say = (build: string) =>
    changeMap(service, 'timetable', (text) =>
      text.replace(
        /preview: \{.*\}/,
        `preview: {each: {proposed-into: main}, outsiders: {build: ${build}}}`,
      ),
    );
  await say('never');
  const never = await show(service, 'pr-1');
  assert.deepEqual(
    [never.takesWord, never.says],
    [false, 'The map has nothing of outsiders built (preview).'],
  );
  assert.equal((await refusalOf(giveWord(service, commit))).code, 'outsiders-not-built');
  const project = await service.operator.call(projectRoutes.showProjectRoute, { params });
  assert.equal(project.word, null);
  await say('on-word');
  await giveWord(service, commit);
  await until('it is built', async () => (await numbersOf(service)).length > 1);
});

test('where the map shuts outsiders in, their steps reach nothing, and a member’s the same as ever', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await changeMap(service, 'timetable', (text) =>
    text.replace('preview: {', 'preview: {outsiders: {network: none}, '),
  );
  const recipe = `${forPulls}steps:
  pages:
    network: out
    run:
      - mkdir -p out && echo fares > out/index.html
      - node -p "'sees ' + Object.keys(os.networkInterfaces()).filter((name) => name !== 'lo')"
      - test ! -e shut || { getent hosts fares.example || echo 'Could not resolve host'; false; }
serve: {site: out}
`;
  const first = await made.push('First', { 'vaquero.yaml': recipe });
  assert.equal(first.state, 'passed');
  const lines = async (number: number) =>
    (await vaquero('log', 'timetable', String(number))).out.split('\n');
  assert.ok((await lines(1)).some((line) => /sees \S+$/.test(line)));
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'fares');
  await fork.commit('Fares', { shut: 'x' });
  const { head } = await open(service, 'fares', fork.folder);
  await giveWord(service, head?.commit ?? '');
  const build = await service.buildEnded('timetable', 2);
  assert.equal(build.state, 'failed');
  assert.ok((await lines(2)).some((line) => /sees $/.test(line)));
  assert.match(
    (await vaquero('build', 'timetable', '2')).out.replace(/\s+/g, ' '),
    /What outsiders propose reaches nothing here: the map says so of preview/,
  );
});
