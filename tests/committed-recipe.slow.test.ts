import assert from 'node:assert/strict';
import { symlinkSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, projectRoutes, recipeRoutes } from '@vaquero/contracts';
import { refusalOf, startTestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

const params = { project: 'timetable' };

test('a recipe is committed from here to a repository hosted here, on what one has seen, and built like a push', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const { operator } = service;
  const commit = (
    text: string,
    head: string | null,
    client = operator,
    message = 'Built by hand',
  ) =>
    client.call(recipeRoutes.commitRecipeRoute, {
      params,
      body: { text, message, head: head as never },
    });
  // Where there is no commit yet, it is the first.
  const first = await commit(recipeOf(writesPage('one')), null);
  assert.equal((await service.buildEnded('timetable', 1)).commit.id, first.commit);
  const text = recipeOf(writesPage('two'));
  const again = await refusalOf(commit(text, null));
  assert.equal(again.code, 'branch-moved');
  assert.equal((await refusalOf(commit('steps: 7', first.commit))).code, 'recipe-invalid');
  for (const message of ['', 'one\0two', 'one\ntwo']) {
    const said = commit(text, first.commit, operator, message);
    assert.equal((await refusalOf(said)).code, 'invalid-request');
  }
  const reader = await service.person('wren', 'reader', 'timetable');
  const unasked = await refusalOf(commit(text, first.commit, reader.client));
  assert.equal(unasked.code, 'not-allowed');

  // A link at its place leads nowhere: the file takes its place. All else stays as it was.
  await made.copy.git('pull', '--quiet', made.remote, 'main');
  await made.copy.git('rm', '--quiet', 'vaquero.yaml');
  symlinkSync('/etc/hostname', join(made.copy.folder, 'vaquero.yaml'));
  await made.copy.commit('Kept', { 'kept.txt': 'kept', 'pages/a.txt': 'a' });
  await made.copy.push(made.remote);
  const { commit: head } = await operator.call(recipeRoutes.showRecipeRoute, { params });
  assert.ok(head !== null);
  // Of two at once one moves the branch on.
  const both = await Promise.allSettled([commit(text, head), commit(text, head)]);
  const done = both.flatMap((one) => (one.status === 'fulfilled' ? [one.value.commit] : []));
  assert.equal(done.length, 1);
  const shown = await operator.call(recipeRoutes.showRecipeRoute, { params });
  assert.deepEqual([shown.commit, shown.asFile], [done[0], text]);
  await made.copy.git('fetch', '--quiet', made.remote, 'main');
  const tree = await made.copy.git('ls-tree', '-r', 'FETCH_HEAD');
  assert.match(tree, /^100644 blob \w+\tkept\.txt$/m);
  assert.match(tree, /^100644 blob \w+\tvaquero\.yaml$/m);
  assert.match(await made.copy.git('log', '-1', '--format=%an %s', 'FETCH_HEAD'), /Built by hand/);
  const { builds } = await operator.call(buildRoutes.listBuildsRoute, { params });
  const [newest] = builds;
  assert.equal(newest?.commit.id, done[0]);

  // Elsewhere it is committed where it lies.
  const other = await makeWorkingCopy(join(service.state, 'roots', 'signage'));
  await other.commit('Signs', { 'vaquero.yaml': text });
  await operator.call(projectRoutes.makeProjectRoute, {
    body: { name: 'signage', repository: { kind: 'path', path: other.folder } },
  });
  const elsewhere = operator.call(recipeRoutes.commitRecipeRoute, {
    params: { project: 'signage' },
    body: { text, message: 'No', head: null },
  });
  assert.equal((await refusalOf(elsewhere)).code, 'commits-elsewhere');
});
