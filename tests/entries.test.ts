import assert from 'node:assert/strict';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { auditRoutes, environmentRoutes, mapRoutes } from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const page = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });

async function mapped(t: TestContext, environments: string, lanes = 'production, staging') {
  const service = await startTestService(t);
  const made = await service.project(project);
  await changeMap(
    service,
    project,
    () => `map: timetable\nlanes: [${lanes}]\nenvironments:\n${environments}`,
  );
  return { service, made };
}

/** Pushes a commit and waits for nothing: what comes of it is what is tried. */
async function push({ copy, remote }: Awaited<ReturnType<typeof mapped>>['made'], text: string) {
  await copy.commit(text, page(text));
  await copy.push(remote);
}

const waitsFor = (service: TestService, name: string, kind: string, build: number) =>
  until(
    `${name} has build ${build} as ${kind}`,
    async () => {
      const found = await service.environmentOf(project, name);
      const { waits } = found;
      const is = waits.kind === 'build' ? waits.state : waits.kind;
      return 'build' in waits && is === kind && waits.build === build && found;
    },
    { seen: () => service.environmentOf(project, name) },
  );
const serves = (service: TestService, name: string, build: number) =>
  until(
    `${name} serves build ${build}`,
    async () => {
      const found = await service.environmentOf(project, name);
      return found.serves?.build === build && found;
    },
    { seen: () => service.environmentOf(project, name) },
  );
const letIn = (
  { operator }: TestService,
  build: number,
  generation: number,
  artifact: string | null = null,
  client = operator,
) =>
  client.call(environmentRoutes.letInRoute, {
    params: { project, environment: 'staging' },
    body: { build, seen: { generation, artifact: artifact as never } },
  });

test('where the map asks for a word, what passed is offered until somebody lets it in', async (t) => {
  const { service, made } = await mapped(
    t,
    `  production: {accepts: {from: staging}}
  staging: {follows: {branch: main}, enters: on-word, may: {promote: releaser}}
`,
  );
  await push(made, 'one');
  const first = await waitsFor(service, 'staging', 'offer', 1);
  assert.deepEqual([first.serves, first.isOnWord], [null, true]);
  await push(made, 'two');
  await waitsFor(service, 'staging', 'offer', 2);
  await push(made, 'three');
  const { generation } = await waitsFor(service, 'staging', 'offer', 3);

  // What one saw is what one lets in; who may is the map's to say.
  const { client: builder } = await service.person('noor', 'builder', project);
  const refused = [
    letIn(service, 2, generation, null, builder),
    letIn(service, 2, generation + 1),
    letIn(service, 9, generation),
  ];
  assert.deepEqual(
    await Promise.all(refused.map((one) => refusalOf(one).then(({ code }) => code))),
    ['not-allowed', 'environment-moved', 'not-offered'],
  );

  const two = await letIn(service, 2, generation);
  assert.deepEqual([two.deploy.kind, two.deploy.build, two.deploy.by], ['let-in', 2, 'ines']);
  assert.match(String((await service.page(`staging.${project}.localhost`)).body), /two/);
  // What was noticed before is overtaken, what came after still waits.
  const after = await service.environmentOf(project, 'staging');
  const seen = [after.generation, after.serves?.artifact ?? null] as const;
  assert.equal((await refusalOf(letIn(service, 1, ...seen))).code, 'not-offered');
  assert.ok(after.waits.kind === 'offer' && after.waits.build === 3);
  const why = await service.operator.call(mapRoutes.whyRoute, {
    params: { project },
    query: { ref: 'main' },
  });
  assert.deepEqual(why.waits, ['build 3 passed and waits for a word to go to staging']);

  // By the command line, after a rollback too: a word is for a build by name.
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const done = await vaquero('let-in', project, 'staging', '--yes', '--reason', 'looked at');
  assert.match(done.out, /staging serves build 3/i);
  await push(made, 'four');
  await waitsFor(service, 'staging', 'offer', 4);
  const back = await vaquero('roll-back', project, 'staging', '--yes', '--reason', 'search is out');
  assert.equal(back.code, 0, back.err);
  const held = await vaquero('let-in', project, 'staging', '--yes');
  assert.match(held.err, /held/);
  await vaquero('lift-hold', project, 'staging', '--yes');
  assert.equal((await service.environmentOf(project, 'staging')).serves?.build, 2);
  assert.equal((await vaquero('let-in', project, 'staging', '--yes')).code, 0);
  assert.equal((await vaquero('let-in', project, 'staging', '--yes')).code, 3);
  const { entries } = await service.operator.call(auditRoutes.auditRoute, {
    params: { project },
    query: { limit: 100 },
  });
  assert.equal(entries.filter(({ kind }) => kind === 'environment.let-in').length, 3);

  // A map that asks for no word lets in what waits for one.
  await push(made, 'five');
  await waitsFor(service, 'staging', 'offer', 5);
  await changeMap(service, project, (text) => text.replace('on-word', 'by-itself'));
  await serves(service, 'staging', 5);
});

test('what follows and accepts enters once the other has served those bytes: a merge promotes', async (t) => {
  const { service, made } = await mapped(
    t,
    `  production: {follows: {branch: release}, accepts: {from: staging}}
  staging: {follows: {branch: main}}
`,
  );
  await made.push('One', page('one'));
  await serves(service, 'staging', 1);
  await made.copy.git('push', '--quiet', made.remote, 'main:release');
  await serves(service, 'production', 2);

  // Pushed past staging, it waits, and says for what.
  await made.copy.git('checkout', '--quiet', '-b', 'release');
  await made.copy.commit('Hotfix', page('hotfix'));
  await made.copy.git('push', '--quiet', made.remote, 'release');
  const { serves: still } = await waitsFor(service, 'production', 'awaited', 3);
  assert.equal(still?.build, 2);
  const why = await service.operator.call(mapRoutes.whyRoute, {
    params: { project },
    query: { ref: 'release' },
  });
  assert.deepEqual(why.waits, ['build 3 passed, and enters production once staging has served it']);

  // Staging serves the same bytes, built for another branch: then it goes on by itself.
  await made.copy.git('checkout', '--quiet', 'main');
  await made.copy.git('merge', '--quiet', '--ff-only', 'release');
  await made.copy.push(made.remote);
  const staging = await serves(service, 'staging', 4);
  const production = await serves(service, 'production', 3);
  assert.equal(production.serves?.artifact, staging.serves?.artifact);
  assert.equal(production.serves?.kind, 'automatic');
});
