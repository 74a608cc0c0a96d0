import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { auditRoutes, mapRoutes, sourceRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

test('a project is built from another folder and branch after it was said what that does; what was built stays what it is', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  await made.push('Two sites', {
    'vaquero.yaml': recipeOf(writesPage('root')),
    'quay/vaquero.yaml': recipeOf(writesPage('quay')),
  });
  await made.copy.git('push', '--quiet', made.remote, 'main:harbour');
  await vaquero('look', project);

  // Tried: nothing is written, and what stands in the way is said.
  const tried = await vaquero(
    'source',
    project,
    '--folder',
    './quay/',
    '--branch',
    'harbour',
    '--try',
  );
  assert.match(tried.out, /^folder +quay$/m);
  assert.match(tried.out, /^recipe +site, its file: pages$/m);
  assert.match(tried.out, /^Builds from now on are of the folder quay;/m);
  assert.match(
    tried.out,
    /^By the map staging follows main and preview has one for each .* main, as/m,
  );
  assert.match(
    (await vaquero('source', project, '--folder', 'pier', '--try')).out,
    /^The newest commit of main has no folder pier:/m,
  );
  assert.match(
    (await vaquero('source', project)).out,
    /^branch +main\nfolder +the repository’s root$/m,
  );
  const set = (wish: Partial<{ branch: string; folder: string }>, seen = '*') =>
    service.operator.call(sourceRoutes.setSourceRoute, {
      params,
      body: { branch: 'main', folder: '', reason: 'tried', ...wish },
      seen,
    });
  assert.equal((await refusalOf(set({ branch: 'nowhere' }))).code, 'branch-missing');
  for (const folder of ['../up', 'a/../b', 'a\nb', '.git', 'a//b', 'HEAD:x'])
    assert.equal((await refusalOf(set({ folder }))).code, 'invalid-request', folder);
  assert.equal((await refusalOf(set({ folder: 'quay' }, 'seen-otherwise'))).code, 'changed-since');

  const moved = await vaquero(
    'source',
    project,
    '--folder',
    'quay',
    '--reason',
    'it moved',
    '--yes',
  );
  assert.equal(moved.code, 0, moved.err);
  const [page] = [`staging.${project}.localhost:${service.edgePort}`];
  assert.match((await service.page(page)).text, /root/);
  await made.push('Of the folder', { 'quay/notes.txt': 'calm' });
  assert.match((await service.page(page)).text, /quay/);

  // What was built before is still of where it was built from.
  const old = await service.operator.call(sourceRoutes.showSourceRoute, { params });
  assert.equal(old.folder, 'quay');
  const again = await vaquero('provenance', project, '1');
  const statement = JSON.parse(again.out) as { payload: string };
  assert.doesNotMatch(Buffer.from(statement.payload, 'base64').toString(), /quay/);

  // The branch: what the map says of itself stays, what it leaves out goes along, clones stand on it.
  assert.equal((await set({ branch: 'harbour', folder: 'quay' }, old.version)).branch, 'harbour');
  const map = await service.operator.call(mapRoutes.showMapRoute, { params });
  assert.equal(map.trunk, 'harbour');
  const cloned = join(service.state, 'clone');
  await made.copy.git('clone', '--quiet', made.remote, cloned);
  assert.equal((await made.copy.git('-C', cloned, 'branch', '--show-current')).trim(), 'harbour');
  const { entries } = await service.operator.call(auditRoutes.auditRoute, { params });
  assert.equal(entries.filter(({ kind }) => kind === 'project.source-set').length, 2);
});
