import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import {
  buildRoutes,
  environmentRoutes,
  makeClient,
  mapRoutes,
  memberRoutes,
  peopleRoutes,
  projectRoutes,
  variableRoutes,
} from '@vaquero/contracts';
import type { ProjectRole } from '@vaquero/core';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };
const seen = { generation: 0, artifact: null };

test('a narrowed token opens its projects, its role and its environments, and nothing of its person', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await service.project('signage');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const narrow = async (role: ProjectRole, environments: string[] | null = null) => {
    const { secret } = await service.operator.call(peopleRoutes.makeTokenRoute, {
      body: { name: `${role} alone`, scope: { projects: [project], role, environments } },
    });
    const headers = { authorization: `Bearer ${secret}` };
    return { secret, client: makeClient({ address: service.address, headers }) };
  };
  type Client = Awaited<ReturnType<typeof narrow>>['client'];
  const promote = (client: Client) =>
    client.call(environmentRoutes.promoteRoute, {
      params: { ...params, environment: 'production' },
      body: { from: 'staging', artifact: 'a'.repeat(64) as never, seen },
    });
  const codeOf = async (call: Promise<unknown>) =>
    call.then(
      () => 'done',
      async () => (await refusalOf(call)).code,
    );
  const build = (client: Client) => client.call(buildRoutes.buildAgainRoute, { params, body: {} });

  // Reading: its own project alone, none of the installation, no act anywhere.
  const reader = await narrow('reader');
  const { projects } = await reader.client.call(projectRoutes.listProjectsRoute);
  assert.deepEqual(
    projects.map(({ name }) => name),
    [project],
  );
  const elsewhere = reader.client.call(projectRoutes.showProjectRoute, {
    params: { project: 'signage' },
  });
  assert.equal(await codeOf(elsewhere), 'not-found');
  assert.equal(await codeOf(build(reader.client)), 'not-allowed');
  assert.equal(await codeOf(promote(reader.client)), 'token-too-narrow');

  // By its role: what that may, and no more, though its maker is an operator.
  const builder = await narrow('builder');
  assert.equal(await codeOf(build(builder.client)), 'done');
  assert.equal(await codeOf(promote(builder.client)), 'not-allowed');
  assert.equal(
    await codeOf(
      builder.client.call(projectRoutes.makeProjectRoute, {
        body: { name: 'own', repository: { kind: 'hosted' } },
      }),
    ),
    'not-allowed',
  );

  // By environments: acts there, reads, and nothing else: no push, no build, no other environment.
  const only = await narrow('releaser', ['staging', 'preview']);
  assert.equal(await codeOf(promote(only.client)), 'token-too-narrow');
  assert.equal(await codeOf(build(only.client)), 'not-allowed');
  const lift = only.client.call(environmentRoutes.liftHoldRoute, {
    params: { ...params, environment: 'staging' },
    body: { generation: 0 },
  });
  assert.ok(!['token-too-narrow', 'not-allowed'].includes(await codeOf(lift)));
  const push = made.remote.replace(/:vaq_[^@]+@/, `:${only.secret}@`);
  assert.notEqual(push, made.remote);
  await assert.rejects(
    made.copy.git('push', '--quiet', push, 'main:other'),
    /403|denied|not-allowed|needs the role/i,
  );

  // Named in the map is no more than one's role: a token that may only read acts nowhere.
  await changeMap(service, project, (text) =>
    text
      .replace('accepts: {from: staging}', 'accepts: {from: staging}, may: {promote: [ines]}')
      .replace('follows: {branch: main}', 'follows: {branch: main}, may: {values: [ines]}'),
  );
  assert.equal(await codeOf(promote(reader.client)), 'token-too-narrow');
  const set = (client: Client) =>
    client.call(variableRoutes.setVariableRoute, {
      params: { ...params, variable: 'LEVEL' },
      query: { environment: 'staging' },
      body: { kind: 'plain', value: 'x' },
    });
  assert.equal(await codeOf(set(reader.client)), 'token-too-narrow');
  assert.equal(await codeOf(set(only.client)), 'done');

  // Nothing of its person: no token wider than itself, none taken back, no session ended, no password set.
  const maintainer = await narrow('maintainer');
  const self = [
    () => maintainer.client.call(peopleRoutes.makeTokenRoute, { body: { name: 'wider' } }),
    () =>
      maintainer.client.call(peopleRoutes.revokeTokenRoute, {
        params: { token: '019aabce-0000-7000-8000-000000000001' },
      }),
    () => maintainer.client.call(peopleRoutes.endSessionRoute, { params: { session: 'x' } }),
    () =>
      maintainer.client.call(peopleRoutes.changePasswordRoute, {
        body: { now: 'x', next: 'y'.repeat(20) },
      }),
  ];
  for (const call of self) assert.equal((await refusalOf(call())).code, 'token-too-narrow');
  // Nor does it give away what would outlast it.
  const lasting = [
    () =>
      maintainer.client.call(memberRoutes.grantRoute, {
        params: { ...params, person: 'ines' },
        body: { role: 'maintainer' },
      }),
    () => maintainer.client.call(memberRoutes.inviteRoute, { params, body: { role: 'reader' } }),
  ];
  for (const call of lasting) assert.equal((await refusalOf(call())).code, 'token-too-narrow');
  const shown = await maintainer.client.call(mapRoutes.showMapRoute, { params });
  assert.equal(shown.version, 2);

  // What one does not see is not there for a token either; by the command line narrow is the easy way.
  const wren = await service.person('wren', 'builder', project);
  const forSignage = wren.client.call(peopleRoutes.makeTokenRoute, {
    body: { name: 'x', scope: { projects: ['signage'], role: 'reader', environments: null } },
  });
  assert.equal((await refusalOf(forSignage)).code, 'not-found');
  const vaquero = commandLine(service, join(service.state, 'home'), { VAQUERO_TOKEN: wren.secret });
  assert.equal((await vaquero('make-token', 'x')).code, 2);
  assert.equal(
    (await vaquero('make-token', 'x', '--project', project, '--environment', 'nowhere')).code,
    3,
  );
  const token = await vaquero(
    'make-token',
    'board',
    '--project',
    project,
    '--role',
    'maintainer',
    '--environment',
    'preview',
  );
  assert.match(token.err, /\(maintainer of timetable on preview alone\) until/);
  // Its maker is a builder, whatever it says; and nobody any more once they have left.
  const board = commandLine(service, join(service.state, 'other'), {
    VAQUERO_TOKEN: token.out.trim(),
  });
  assert.match((await board('who')).out, /reader/);
  assert.match((await vaquero('tokens')).out, /board +maintainer of timetable on preview alone/);
});
