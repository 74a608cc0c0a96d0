import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, type WorkingCopy, writesPage } from './support/working-copy.ts';

const project = 'timetable';

const show = ({ operator }: TestService, pullRequest: string) =>
  operator.call(pullRequestRoutes.showPullRequestRoute, { params: { project, pullRequest } });
const merge = (
  { operator }: TestService,
  { name, head, merge: outlook }: PullRequestReply,
  client = operator,
) =>
  client.call(pullRequestRoutes.mergePullRequestRoute, {
    params: { project, pullRequest: name },
    body: { head: head?.commit ?? ('' as never), target: outlook?.target ?? ('' as never) },
  });
const serving = (service: TestService, name: string, build: number) =>
  until(`${name} serves build ${build}`, async () => {
    const { serves } = await service.environmentOf(project, name);
    return serves?.build === build && serves;
  });

async function begun(t: Parameters<typeof startTestService>[0]) {
  const service = await startTestService(t);
  const made = await service.project(project);
  const { copy, remote } = made;
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')), 'notes.txt': 'one\n' });
  const propose = async (branch: string, files: Record<string, string>) => {
    await copy.git('checkout', '--quiet', '-b', branch, 'main');
    await copy.commit(branch, files);
    await copy.git('push', '--quiet', remote, branch);
    const { name } = await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
      params: { project },
      body: { branch, title: `The ${branch}` },
    });
    await copy.git('checkout', '--quiet', 'main');
    return name;
  };
  return { service, made, copy, remote, propose };
}

test('a merge from here moves the branch on, and its preview’s bytes with it', async (t) => {
  const { service, made, copy, remote, propose } = await begun(t);
  const name = await propose('try/quay', { 'vaquero.yaml': recipeOf(writesPage('quay')) });
  const preview = await serving(service, 'pr-1', 2);
  const one = await show(service, name);
  assert.deepEqual(
    [one.merge?.how, one.merge?.isHere, one.merge?.follows],
    [
      'fast-forward',
      true,
      ['staging takes the bytes of build 2, without a build.', 'pr-1 ends 1 h later.'],
    ],
  );

  // By whoever may push, as it was seen; twice is once.
  const { client: reader } = await service.person('wren', 'reader', project);
  assert.equal((await refusalOf(merge(service, one, reader))).code, 'not-allowed');
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const done = await vaquero('merge-pull-request', project, name, '--yes');
  assert.deepEqual([done.code, done.out.trim()], [0, 'pr-1 is merged into main.'], done.err);
  assert.match(
    done.err,
    /cleanly: main moves on to its head\n +staging takes the bytes of build 2/,
  );
  assert.equal((await merge(service, one)).state, 'merged');
  const staging = await serving(service, 'staging', 3);
  assert.equal(staging.artifact, preview.artifact);
  assert.equal((await service.buildEnded(project, 3)).reusedFrom, 2);
  await copy.git('pull', '--quiet', remote, 'main');
  assert.equal((await copy.git('rev-parse', 'HEAD')).trim(), one.head?.commit);

  // The branch has moved meanwhile: a commit of both, by who merged it.
  const next = await propose('try/lines', { 'lines.txt': 'lines\n' });
  await made.push('On', { 'other.txt': 'other\n' });
  const late = await until('the push is seen', async () => {
    const seen = await show(service, next);
    return seen.merge?.how === 'commit' && seen;
  });
  // What is previewed is what a merge would bring, once main is in it; asked twice it is there already.
  const { name: third } = await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project },
    body: { branch: await aside(copy, remote), title: 'The buoys' },
  });
  const brought = await vaquero('bring-in', project, third);
  assert.match(
    brought.out,
    /^main is in try\/buoys: pr-3 is at \w{8} Merge main into try\/buoys/,
    brought.err,
  );
  assert.match(
    (await vaquero('bring-in', project, third)).out,
    /^pr-3 has all of main already\.$/m,
  );
  const { merge: after, ahead } = await show(service, third);
  assert.deepEqual([after?.how, ahead], ['fast-forward', 2]);
  await until('its preview has both', async () => {
    const built = (await show(service, third)).builds[0];
    return built?.state === 'passed' && built.commit.subject.startsWith('Merge main');
  });

  const old = { ...late, merge: { ...late.merge, target: one.head?.commit } } as PullRequestReply;
  assert.equal((await refusalOf(merge(service, old))).code, 'branch-moved');
  assert.match(late.merge?.follows[0] ?? '', /^A build from the merge goes to staging\.$/);
  assert.equal((await merge(service, late)).state, 'merged');
  await copy.git('pull', '--quiet', remote, 'main');
  assert.equal(
    (await copy.git('log', '-1', '--format=%an <%ae>%n%s%n%p')).trim().replace(/\w+ \w+$/, 'two'),
    `ines <ines@people.invalid>\nMerge pr-2 into main: The try/lines\ntwo`,
  );
  assert.equal((await copy.git('show', 'HEAD:lines.txt')).trim(), 'lines');
  assert.equal((await copy.git('show', 'HEAD:other.txt')).trim(), 'other');
});

/** Pushes a branch that leaves main before its newest commit. */
async function aside(copy: WorkingCopy, remote: string): Promise<string> {
  await copy.git('checkout', '--quiet', '-b', 'try/buoys', 'main~1');
  await copy.commit('Buoys', { 'buoys.txt': 'buoys\n' });
  await copy.git('push', '--quiet', remote, 'try/buoys');
  await copy.git('checkout', '--quiet', 'main');
  return 'try/buoys';
}

test('what both have changed is named and merged by nobody; what a map asks a word for is offered', async (t) => {
  const { service, made, copy, remote, propose } = await begun(t);
  await changeMap(service, project, (text) =>
    text.replace('follows: {branch: main}', 'follows: {branch: main}, enters: on-word'),
  );
  const name = await propose('try/notes', { 'notes.txt': 'two\n' });
  const { merge: clean } = await show(service, name);
  assert.match(clean?.follows[0] ?? '', /is offered the bytes|is offered to staging/);
  await copy.commit('Three', { 'notes.txt': 'three\n' });
  await copy.push(remote);
  const one = await until('the push is seen', async () => {
    const seen = await show(service, name);
    return seen.merge?.how === 'conflicts' && seen;
  });
  assert.deepEqual([one.merge?.paths, one.merge?.follows], [['notes.txt'], []]);
  const refusal = await refusalOf(merge(service, one));
  const bringIn = (pull: PullRequestReply) =>
    service.operator.call(pullRequestRoutes.bringInRoute, {
      params: { project, pullRequest: pull.name },
      body: {
        head: pull.head?.commit ?? ('' as never),
        target: pull.merge?.target ?? ('' as never),
      },
    });
  assert.equal((await refusalOf(bringIn(one))).code, 'merge-conflicts');
  assert.deepEqual(
    [refusal.code, 'paths' in refusal && refusal.paths],
    ['merge-conflicts', ['notes.txt']],
  );
  const head = await copy.git('ls-remote', made.remote, 'refs/heads/main');
  assert.equal(head.split('\t')[0], one.merge?.target, 'nothing has moved');

  // An unrelated history, and one whose commits moved since they were read.
  await copy.git('checkout', '--quiet', '--orphan', 'apart');
  await copy.commit('Apart', { 'apart.txt': 'apart' });
  await copy.git('push', '--quiet', remote, 'apart');
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project },
    body: { branch: 'apart', title: 'Apart' },
  });
  const { merge: none } = await show(service, 'pr-2');
  assert.deepEqual([none?.how, none?.why], ['impossible', 'they have no commit in common']);
  const moved = { ...one, head: { ...one.head, commit: one.merge?.target } } as PullRequestReply;
  assert.equal((await refusalOf(merge(service, moved))).code, 'pull-request-moved');
});
