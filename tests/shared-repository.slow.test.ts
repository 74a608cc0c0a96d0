import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { mapRoutes, projectRoutes, pullRequestRoutes } from '@vaquero/contracts';
import { memberPage } from './support/admission.ts';
import { commandLine } from './support/command-line.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const serving = (service: TestService, project: string, name: string, build: number) =>
  until(
    `${name} of ${project} serves build ${build}`,
    async () => {
      const { serves } = await service.environmentOf(project, name);
      return serves?.build === build && serves;
    },
    { seen: () => service.environmentOf(project, name).catch(String) },
  );

test('two projects of one repository are built apart, previewed apart, and pushed to by the roles of the first', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const { copy, remote } = made;
  const site = (text: string) => ({ 'vaquero.yaml': recipeOf(writesPage(text)) });
  const boards = (text: string) => ({ 'signage/vaquero.yaml': recipeOf(writesPage(text)) });
  await made.push('One', { ...site('sailings'), ...boards('boards') });
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const asked = ['make', 'signage', '--of', 'timetable', '--folder', 'signage'];
  const done = await vaquero(...asked);
  assert.match(done.out, /^push +git push \S+\/git\/timetable\.git main$/m, done.err);
  // What is there already is built, without a push.
  await serving(service, 'signage', 'staging', 1);
  assert.match(String((await service.page('staging.signage.localhost')).body), /boards/);

  // A change of one builds the other from what is known, or not at all.
  await copy.commit('Two', boards('boards, larger'));
  await copy.push(remote);
  const seen = await serving(service, 'signage', 'staging', 2);
  const other = await serving(service, 'timetable', 'staging', 2);
  assert.equal(seen.commit, other.commit);

  // Proposed once, it has a preview in each; merged once, both follow.
  await copy.git('checkout', '--quiet', '-b', 'try/night');
  await copy.commit('Night', { ...site('sailings at night'), ...boards('boards at night') });
  await copy.git('push', '--quiet', remote, 'try/night');
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'signage' },
    body: { branch: 'try/night', title: 'Night' },
  });
  await serving(service, 'timetable', 'pr-1', 3);
  await serving(service, 'signage', 'pr-1', 3);
  assert.match(
    String((await memberPage(service, 'pr-1.signage.localhost')).body),
    /boards at night/,
  );

  // Who may build the second project alone neither pushes to the repository nor merges into it.
  const builder = await service.person('noor', 'builder', 'signage');
  const pushed = async (name: string) => {
    const place = `${service.origin.replace('localhost', '127.0.0.1')}/git/${name}.git`;
    const to = place.replace('http://', `http://x:${builder.git}@`);
    return (await copy.push(to)).said;
  };
  for (const name of ['signage', 'timetable'])
    assert.match(await pushed(name), /not found|no such repository/i, name);
  const params = { project: 'signage', pullRequest: 'pr-1' };
  const one = await builder.client.call(pullRequestRoutes.showPullRequestRoute, { params });
  const body = { head: one.head?.commit ?? assert.fail(), target: one.merge?.target as never };
  for (const act of [
    () => builder.client.call(pullRequestRoutes.mergePullRequestRoute, { params, body }),
    () => builder.client.call(pullRequestRoutes.closePullRequestRoute, { params }),
    () =>
      builder.client.call(pullRequestRoutes.retargetPullRequestRoute, {
        params,
        body: { into: 'main' },
      }),
  ]) {
    const refusal = await refusalOf(act());
    assert.deepEqual(
      [refusal.code, 'project' in refusal && refusal.project],
      ['not-allowed', 'timetable'],
    );
  }
  const reach = await service.operator.call(mapRoutes.reachRoute, {
    params: { project: 'signage' },
  });
  const noor = reach.people.find(({ name }) => name === 'noor');
  assert.ok(!noor?.deeds.flat().includes('pushes'));

  await service.operator.call(pullRequestRoutes.mergePullRequestRoute, { params, body });
  await serving(service, 'timetable', 'staging', 4);
  await serving(service, 'signage', 'staging', 4);

  const missing = { name: 'tides', repository: { kind: 'shared' as const, project: 'nobodys' } };
  const call = service.operator.call(projectRoutes.makeProjectRoute, { body: missing });
  assert.equal((await refusalOf(call)).code, 'not-found');
});
