import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { auditRoutes, pullRequestRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { environments, gone, serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

test('a draft is built and has no environment; ready it has what was built, a draft again it ends', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const preview = async () => (await environments(service)).find(({ name }) => name === 'pr-1');
  const recipe = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
  await made.push('One', recipe('one'));
  await made.copy.git('checkout', '--quiet', '-b', 'try/bikes');
  await made.copy.commit('Bicycles', recipe('bicycles'));
  await made.copy.git('push', '--quiet', made.remote, 'try/bikes');

  const opened = await vaquero('open-pull-request', project, 'try/bikes', '--draft');
  assert.match(opened.out, /^pr-1 open, a draft: try\/bikes$/m);
  const built = await service.buildEnded(project, 2);
  assert.equal(built.state, 'passed');
  assert.match(built.ref, /proposed/);
  assert.equal(await preview(), undefined);
  const stands = await vaquero('pull-request', project, 'pr-1');
  assert.match(stands.out, /passed\. It is a draft: it has no environment until it is ready\.$/m);
  const why = await vaquero('why', project, 'pr-1');
  assert.match(why.out, /nowhere until it is ready, as it is a draft: preview has one/);
  const merge = await vaquero('merge-pull-request', project, 'pr-1', '--yes');
  assert.deepEqual([merge.code, /pr-1 is a draft\./.test(merge.err)], [3, true], merge.err);

  // Built again on somebody's wish it is no more than built; a new map starts nothing of it either.
  await vaquero('build-again', project, '2');
  await changeMap(service, project, (text) => `${text}# calm seas\n`);
  assert.equal(await preview(), undefined);

  // Ready: it is there with what was built, and nothing is built anew.
  const ready = await vaquero('draft', project, 'pr-1', '--no-longer');
  assert.match(ready.out, /^pr-1 open: try\/bikes$/m);
  const lives = await until('it serves', async () => {
    const found = await preview();
    return found?.serves != null && found.serves.confirmedAt !== null && found;
  });
  assert.equal(lives.serves?.artifact, built.artifact?.digest);

  // A draft once more: it ends after its time, a new commit touches nothing, and said twice it is said once.
  await vaquero('draft', project, 'pr-1');
  assert.equal((await vaquero('draft', project, 'pr-1')).code, 0);
  await until('its end is known', async () => {
    const endsAt = (await preview())?.family?.endsAt;
    return endsAt != null && endsAt < Date.now() + 3_700_000;
  });
  await made.copy.commit('Tandems', recipe('tandems'));
  await made.copy.git('push', '--quiet', made.remote, 'try/bikes');
  await until('the new commit is built', async () => {
    const pull = await service.operator.call(pullRequestRoutes.showPullRequestRoute, {
      params: { ...params, pullRequest: 'pr-1' },
    });
    return pull.pushes[0]?.state === 'passed' && pull.pushes[0].commit.subject === 'Tandems';
  });
  assert.equal((await preview())?.serves?.artifact, built.artifact?.digest);

  // Ready before it has ended: it is given what it missed.
  await vaquero('draft', project, 'pr-1', '--no-longer');
  await until('it serves the newest', async () => {
    const found = await preview();
    return found?.serves != null && found.serves.artifact !== built.artifact?.digest;
  });
  const { entries } = await service.operator.call(auditRoutes.auditRoute, { params });
  const set = entries.filter(({ kind }) => kind === 'pull-request.draft-set');
  assert.equal(set.length, 3);

  await vaquero('close-pull-request', project, 'pr-1');
  assert.equal((await vaquero('draft', project, 'pr-1', '--no-longer')).code, 3);
});

test('a pull request that is closed ends its preview in time, reopened it is back with its history, retargeted it goes elsewhere', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.git('push', '--quiet', made.remote, 'main:harbour');
  await made.copy.git('checkout', '--quiet', '-b', 'try/one');
  await made.copy.commit('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await made.copy.git('push', '--quiet', made.remote, 'try/one');
  await vaquero('open-pull-request', project, 'try/one');
  await serves(service, 'pr-1', 2);
  await vaquero('close-pull-request', project, 'pr-1');
  const closing = (await environments(service)).find(({ name }) => name === 'pr-1');
  assert.ok((closing?.family?.endsAt ?? 0) < Date.now() + 3_700_000, 'an hour from now');
  assert.equal((await vaquero('close-pull-request', project, 'pr-1')).code, 3);

  // Opened again while it ends: it goes on as if nothing had been.
  const again = await vaquero('reopen-pull-request', project, 'pr-1');
  assert.match(again.out, /^pr-1 open: try\/one$/m);
  const open = (await environments(service)).find(({ name }) => name === 'pr-1');
  assert.ok((open?.family?.endsAt ?? 0) > Date.now() + 86_400_000);
  assert.equal((await vaquero('reopen-pull-request', project, 'pr-1')).code, 3);

  // Ended, then opened again: it is back with its history.
  await changeMap(service, project, (text) =>
    text.replace('preview: {', 'preview: {ends: {closed: 0 min}, '),
  );
  await vaquero('close-pull-request', project, 'pr-1');
  await gone(service, 'pr-1');
  await vaquero('reopen-pull-request', project, 'pr-1');
  await until('it serves again', async () => {
    const found = (await environments(service)).find(({ name }) => name === 'pr-1');
    return (found?.serves?.number ?? 0) > 1;
  });

  // Into another branch, for which the map has no preview.
  assert.equal((await vaquero('retarget-pull-request', project, 'pr-1', 'nowhere')).code, 3);
  const moved = await vaquero('retarget-pull-request', project, 'pr-1', 'harbour');
  assert.match(moved.out, /^merges +try\/one into harbour/m);
  await gone(service, 'pr-1');
  const why = await vaquero('why', project, 'pr-1');
  assert.match(why.out, /^pr-1: no environment wants pr-1/);
});
