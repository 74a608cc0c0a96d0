import assert from 'node:assert/strict';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, projectRoutes, recipeRoutes } from '@vaquero/contracts';
import { keepFamilies, projectByName } from '@vaquero/service';
import { startGitHost } from '@vaquero/standins';
import { temporaryFolder } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

const params = { project: 'signage' };

test('what is at a repository is seen before a project is made of it, and its recipe is written otherwise first', async (t) => {
  const service = await startTestService(t);
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = await host.repository('signage');
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  const site = JSON.stringify({ scripts: { build: 'mkdir -p dist && cp index.html dist/' } });
  await copy.commit('Boards of both quays', {
    'boards/index.html': '<h1>Boards</h1>\n',
    'boards/look.css': `${'h1 { color: navy }\n'.repeat(4)}`,
    'boards/notes.md': '# Notes\n'.repeat(400),
    'tides/vaquero.yaml': recipeOf(writesPage('tides'), '    given: [TIDE_KEY]\n'),
    'tides/package.json': site,
  });
  await copy.git('push', '--quiet', folder, 'main:season', 'main:harbour');
  await copy.git('--git-dir', folder, 'symbolic-ref', 'HEAD', 'refs/heads/season');
  const { operator } = service;
  const look = (more: { branch?: string; folder?: string } = {}) =>
    operator.call(projectRoutes.tryProjectRoute, {
      body: { name: '', repository: { kind: 'http', url }, ...more },
    });

  const { repository } = await look({ folder: 'boards' });
  const sight = repository?.sight;
  assert.ok(sight != null);
  assert.deepEqual(
    [sight.branch, sight.head.subject, sight.files],
    ['season', 'Boards of both quays', 5],
  );
  assert.ok(sight.bytes > 3200 && sight.bytes < 4200, `${sight.bytes}`);
  assert.deepEqual(
    sight.languages.map(({ name }) => name),
    ['CSS', 'HTML'],
  );
  // The one that was named, the root, and what holds a recipe; each with how it would be built.
  const recipes = new Map(sight.folders.map(({ folder: at, recipe }) => [at, recipe]));
  assert.deepEqual([...recipes.keys()], ['boards', '', 'tides']);
  assert.equal(recipes.get('tides')?.from, 'file');
  assert.deepEqual(recipes.get('tides')?.reads, ['TIDE_KEY']);
  const proposed = recipes.get('boards');
  assert.equal(proposed?.from, 'proposed');
  assert.match(proposed?.text ?? '', /^serve:/m);
  assert.equal((await look({ branch: 'harbour' })).repository?.sight?.branch, 'harbour');
  assert.equal((await look({ branch: 'absent' })).repository?.sight, null);
  // A tree that is no site's, and a commit that Git itself would not read: said in words, and nothing is left of them.
  await copy.git('checkout', '--quiet', '-b', 'deep');
  await copy.commit('Deep', { [`${'a/'.repeat(101)}x.txt`]: 'x' });
  await copy.git('push', '--quiet', folder, 'deep');
  const deep = (await look({ branch: 'deep' })).repository;
  assert.equal(deep?.sight, null);
  assert.match(deep?.unseen ?? '', /not shown: its tree holds folders over 100 deep/);
  await copy.git('checkout', '--quiet', 'main');
  const tree = (await copy.git('rev-parse', 'HEAD^{tree}')).trim();
  const bad = join(service.state, 'bad-commit');
  writeFileSync(bad, `tree ${tree}\nauthor A <a@b> bad +0000\ncommitter A <a@b> 1 +0000\n\nBad\n`);
  const id = await copy.git('hash-object', '-t', 'commit', '-w', '--literally', bad);
  await copy.git('push', '--quiet', folder, `${id.trim()}:refs/heads/bad`);
  assert.match((await look({ branch: 'bad' })).repository?.unseen ?? '', /Git finds faults in it/);
  assert.deepEqual(readdirSync(join(service.state, 'sights')), []);

  // Made with a recipe of one’s own, and nothing built before the next push.
  const make = (recipe: string | null, begin: 'now' | 'next-push', kind?: 'hosted') =>
    operator.call(projectRoutes.makeProjectRoute, {
      body: {
        name: 'signage',
        branch: 'season',
        folder: 'boards',
        repository: kind === 'hosted' ? { kind } : { kind: 'http', url },
        recipe,
        begin,
      },
    });
  const own = recipeOf(writesPage('by hand'));
  // What Git would not keep is refused before anything is made.
  const faulty = await refusalOf(make(own, 'next-push'));
  assert.deepEqual(
    [faulty.code, /faults in what it holds \(\w+\)/.test(faulty.detail)],
    ['repository-unreachable', true],
  );
  await copy.git('push', '--quiet', folder, ':refs/heads/bad', ':refs/heads/deep');
  assert.equal((await refusalOf(make('steps: 7', 'now'))).code, 'recipe-invalid');
  assert.equal((await refusalOf(make(own, 'next-push', 'hosted'))).code, 'invalid-request');
  const made = await make(own, 'next-push');
  assert.equal(made.head?.subject, 'Boards of both quays');
  await operator.call(projectRoutes.lookRoute, { params });
  // Nor does what the map wants and nobody has built begin by itself.
  const project = await projectByName(service.deps.db, 'signage');
  assert.ok(project !== undefined);
  await keepFamilies(service.deps, project);
  const { builds } = await operator.call(buildRoutes.listBuildsRoute, { params });
  assert.deepEqual(builds, []);
  await copy.commit('A third quay', { 'boards/index.html': '<h1>Three</h1>\n' });
  await copy.git('push', '--quiet', folder, 'main:season');
  assert.equal((await service.buildEnded('signage', 1)).state, 'passed');
  const { inForce } = await operator.call(recipeRoutes.showRecipeRoute, { params });
  assert.deepEqual(inForce?.source, { from: 'accepted', version: 1 });
  assert.match(String((await service.page('staging.signage.localhost')).body), /by hand/);
});
