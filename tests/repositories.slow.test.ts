import assert from 'node:assert/strict';
import { chmodSync, mkdirSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, type ProjectSeen, projectRoutes } from '@vaquero/contracts';
import { startGitHost } from '@vaquero/standins';
import { temporaryFolder, until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

type Source = { kind: 'http'; url: string } | { kind: 'path'; path: string };
const make = (
  service: TestService,
  name: string,
  repository: Source,
  branch = 'main',
): Promise<ProjectSeen> =>
  service.operator.call(projectRoutes.makeProjectRoute, { body: { name, branch, repository } });

test('a repository elsewhere is read by polling: a commit there is built within seconds', async (t) => {
  const service = await startTestService(t);
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = await host.repository('signage');
  const empty = await make(service, 'signage', { kind: 'http', url });
  assert.equal(empty.repository.state, 'waits for the first commit on main');
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  const commit = await copy.commit('Signs', { 'vaquero.yaml': recipeOf(writesPage('signs')) });
  await copy.git('push', '--quiet', folder, 'main');
  await until(
    'the commit is noticed',
    async () =>
      (
        await service.operator.call(buildRoutes.listBuildsRoute, {
          params: { project: 'signage' },
          query: { limit: 1 },
        })
      ).builds[0],
    { withinMs: 8000 },
  );
  const build = await service.buildEnded('signage', 1);
  assert.deepEqual(
    [build.state, build.commit.id, build.cause],
    ['passed', commit, 'new commit on main'],
  );
  // When the host goes away the project says so, and what is live stays.
  host.behave('broken');
  await until(
    'the trouble is said',
    async () =>
      (
        await service.operator.call(projectRoutes.showProjectRoute, {
          params: { project: 'signage' },
        })
      ).repository.trouble,
  );
  assert.equal(
    (await service.page(`staging.signage.localhost:${service.edgePort}`)).text,
    '<h1>signs</h1>',
  );
  host.behave('open');
  await until(
    'the trouble is over',
    async () =>
      (
        await service.operator.call(projectRoutes.showProjectRoute, {
          params: { project: 'signage' },
        })
      ).repository.trouble === null,
  );
});

test('what stands in the way of a repository is said at once, and nothing is kept', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = await host.repository('signage');
  assert.equal(
    (await refusalOf(make(service, 'a1', { kind: 'http', url: `${host.origin}/nobody.git` }))).code,
    'repository-not-found',
  );
  host.behave('private');
  assert.equal(
    (await refusalOf(make(service, 'a1', { kind: 'http', url }))).code,
    'repository-denied',
  );
  host.behave('open');
  assert.equal(
    (await refusalOf(make(service, 'a1', { kind: 'http', url: 'http://127.0.0.1:9/x.git' }))).code,
    'repository-unreachable',
  );
  const secret = await refusalOf(
    make(service, 'a1', { kind: 'http', url: url.replace('http://', 'http://x:secret@') }),
  );
  assert.equal(secret.code, 'invalid-request');
  assert.doesNotMatch(secret.detail, /secret/);
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('One', { a: 'x' });
  await copy.git('push', '--quiet', folder, 'main:trunk', 'main:try/b');
  const branch = await refusalOf(make(service, 'a1', { kind: 'http', url }));
  assert.deepEqual([branch.code, branch.branches], ['branch-missing', ['trunk', 'try/b']]);
  assert.equal((await make(service, 'a1', { kind: 'http', url }, 'trunk')).branch, 'trunk');
  assert.deepEqual(
    (await service.operator.call(projectRoutes.listProjectsRoute)).projects.map(
      (project) => project.name,
    ),
    ['a1'],
  );
});

test('paths are read below the roots that the operator named, and no link leads out of them', async (t) => {
  const service = await startTestService(t);
  const roots = join(service.state, 'roots');
  const inside = await makeWorkingCopy(join(roots, 'signage'));
  await inside.commit('Signs', { 'vaquero.yaml': recipeOf(writesPage('signs')) });
  const outside = await makeWorkingCopy(join(service.state, 'outside'));
  await outside.commit('Secret', { a: 'x' });
  symlinkSync(outside.folder, join(roots, 'link'));
  mkdirSync(join(roots, 'plain'));
  for (const path of [
    outside.folder,
    join(roots, 'link'),
    `${roots}/../outside`,
    '/etc',
    'relative',
  ]) {
    assert.equal(
      (await refusalOf(make(service, 'a1', { kind: 'path', path }))).code,
      'path-not-allowed',
      path,
    );
  }
  mkdirSync(join(roots, 'denied-403-not-found'));
  for (const path of ['nowhere', 'plain', 'denied-403-not-found'].map((name) => join(roots, name)))
    assert.equal(
      (await refusalOf(make(service, 'a1', { kind: 'path', path }))).code,
      'repository-not-found',
      path,
    );
  await make(service, 'signage', { kind: 'path', path: inside.folder });
  assert.equal((await service.buildEnded('signage', 1)).state, 'passed');
});

test('a built commit stays, whatever becomes of its branch; hooks and settings of a repository do nothing', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const first = await made.push('One', {
    'vaquero.yaml': recipeOf(writesPage('one')),
    '.gitattributes': 'secret.txt export-ignore\n*.txt export-subst\n',
    'secret.txt': '$Format:%H$',
    'a.sh': 'x',
  });
  assert.equal(first.state, 'passed');
  await made.copy.git('reset', '--quiet', '--hard', 'HEAD');
  await made.copy.git('commit', '--quiet', '--amend', '--message', 'Another history');
  assert.ok((await made.copy.push(made.remote, '--force')).ok);
  await service.buildEnded('timetable', 2);
  const again = await service.operator.call(buildRoutes.buildAgainRoute, {
    params: { project: 'timetable' },
    body: { build: 1 },
  });
  const rebuilt = await service.buildEnded('timetable', again.number);
  assert.deepEqual([rebuilt.state, rebuilt.commit.id], ['passed', first.commit.id]);
  // An older commit built again goes nowhere by itself.
  assert.equal((await service.environmentOf('timetable', 'staging')).serves?.build, 2);
  // The tree was exact: export rules take nothing out and put nothing in.
  const third = await made.push('Show', {
    'vaquero.yaml': recipeOf(`mkdir out && cp secret.txt out/index.html`),
  });
  assert.equal(third.state, 'passed');
  assert.equal(
    (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text,
    '$Format:%H$',
  );
});

test('a tree comes byte for byte as it was committed, whole or as what changed since the one before', async (t) => {
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_SLOTS: '1' } });
  const made = await service.project('timetable');
  const attributes = '*.txt text eol=crlf ident\n*.utf16 text working-tree-encoding=UTF-16LE\n';
  const show = recipeOf(
    'mkdir out && cat one.txt two.txt > out/index.html && find . -path ./out -prune -o -type f -print -o -type l -print | sort > out/tree.txt && stat -c %A run.sh >> out/tree.txt',
  );
  const whole = await made.push('Whole', {
    'vaquero.yaml': show,
    '.gitattributes': attributes,
    'one.txt': '$Id$\nLF only\n',
    'two.txt': 'first\n',
    'run.sh': '#!/bin/sh\n',
    'gone/deep.txt': 'x',
  });
  assert.equal(whole.failure, null);
  const page = async (path = '/'): Promise<string> =>
    (await service.page(`staging.timetable.localhost:${service.edgePort}`, path)).text;
  assert.equal(await page(), '$Id$\nLF only\nfirst\n');

  // By the same slot: only what changed is fetched, and it is the same as if all had been.
  await made.copy.git('rm', '--quiet', '-r', 'gone');
  chmodSync(join(made.copy.folder, 'run.sh'), 0o755);
  const changed = await made.push('Changed', {
    'two.txt': '$Id$\nsecond\n',
    'new/page.txt': 'new\n',
  });
  assert.equal(changed.failure, null);
  assert.equal(await page(), '$Id$\nLF only\n$Id$\nsecond\n');
  assert.equal(
    await page('/tree.txt'),
    [
      './.gitattributes',
      './new/page.txt',
      './one.txt',
      './run.sh',
      './two.txt',
      './vaquero.yaml',
      '-rwxr-xr-x',
      '',
    ].join('\n'),
  );
});

test('what one build leaves in its tree is not in the tree of the next', async (t) => {
  const service = await startTestService(t, { environment: { VAQUERO_RUNNER_SLOTS: '1' } });
  const made = await service.project('timetable');
  const first = await made.push('Changes what it finds', {
    'vaquero.yaml': recipeOf(
      'echo changed > page.txt && rm other.txt && touch left.txt && chmod 600 kept.txt && mkdir out && cp page.txt out/index.html',
    ),
    'page.txt': 'as committed\n',
    'other.txt': 'other\n',
    'kept.txt': 'kept\n',
  });
  assert.equal(first.failure, null);
  const second = await made.push('Looks', {
    'vaquero.yaml': recipeOf(
      'mkdir out && cat page.txt other.txt > out/index.html && ls >> out/index.html && stat -c %a kept.txt >> out/index.html',
    ),
  });
  assert.equal(second.failure, null);
  assert.equal(
    (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text,
    'as committed\nother\nkept.txt\nother.txt\nout\npage.txt\nvaquero.yaml\n644\n',
  );
});

test('a push says where its build is, and follows it when a push option asks for it', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.copy.commit('One', {
    'vaquero.yaml': recipeOf(`${writesPage('x')} && echo the tide is in`),
  });
  const plain = await made.copy.push(made.remote);
  assert.equal(plain.ok, true);
  assert.match(plain.said, /remote: build 1 of timetable: queued\s/);
  assert.match(plain.said, new RegExp(`remote: ${service.origin}/p/timetable/builds/1\\s`));
  await service.buildEnded('timetable', 1);

  await made.copy.commit('Two', {
    'vaquero.yaml': recipeOf('echo the tide is out; sleep 0.2; exit 4'),
  });
  const followed = await made.copy.push(made.remote, '-o', 'follow');
  assert.equal(followed.ok, true);
  assert.match(followed.said, /remote: the tide is out\s/);
  assert.match(followed.said, /remote: build 2 failed: Step pages ended with exit code 4\./);

  // The last words are what tells and what helps, and that something did not plainly pass.
  await made.copy.commit('Three', { 'vaquero.yaml': recipeOf('tidegen --all') });
  const explained = await made.copy.push(made.remote, '-o', 'follow');
  assert.match(explained.said, /remote: build 3 failed: .* The runner has no tidegen: install it/);
  assert.match(explained.said, /remote: line \d+: .*tidegen: not found/);
  await made.copy.commit('Four', {
    'vaquero.yaml': `steps:
  words: {run: exit 1, failure: warns}
  pages: {run: ${JSON.stringify(writesPage('x'))}}
serve: {site: out}
`,
  });
  const warned = await made.copy.push(made.remote, '-o', 'follow');
  assert.match(warned.said, /remote: build 4 passed, warned\s/);
});
