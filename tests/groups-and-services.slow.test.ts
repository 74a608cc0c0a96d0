import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import {
  auditRoutes,
  buildRoutes,
  type Client,
  environmentRoutes,
  groupRoutes,
  makeClient,
  mapRoutes,
  memberRoutes,
  peopleRoutes,
  projectRoutes,
  serviceRoutes,
} from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };
const group = 'release-desk';

const codeOf = (call: Promise<unknown>): Promise<string> =>
  call.then(
    () => 'done',
    async () => (await refusalOf(call)).code,
  );

test('a group is granted and named in maps like a person; who leaves it may no more at their next call', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await serves(service, 'staging', 1);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const { client: noor, secret: noors } = await service.person('noor', null);
  const { client: ada } = await service.person('ada', 'maintainer', project);
  const builds = () => codeOf(noor.call(buildRoutes.listBuildsRoute, { params }));

  assert.equal((await vaquero('make-group', group, '--called', 'Release desk')).code, 0);
  assert.equal((await vaquero('join-group', group, 'noor', 'ada')).code, 0);
  assert.equal(await builds(), 'not-found');
  // A maintainer grants it like a person.
  await ada.call(memberRoutes.grantRoute, {
    params: { ...params, person: group },
    body: { role: 'releaser' },
  });
  assert.equal(await builds(), 'done');
  const { members } = await ada.call(memberRoutes.listMembersRoute, { params });
  assert.deepEqual(
    members.map((one) => [one.name, one.kind, one.role, one.group, one.everywhere, one.people]),
    [
      ['ada', 'person', 'maintainer', null, false, []],
      ['ines', 'person', 'operator', null, true, []],
      ['noor', 'person', 'releaser', group, false, []],
      [group, 'group', 'releaser', null, false, ['ada', 'noor']],
    ],
  );
  assert.match((await vaquero('members', project)).out, /^noor +noor +releaser, by release-desk/im);
  const me = await noor.call(peopleRoutes.meRoute);
  assert.deepEqual([me.groups, me.grants], [[group], [{ project, role: 'releaser', group }]]);

  // What a group gives is taken by leaving it; one above it may be granted beside it.
  const grant = (role: 'reader' | 'maintainer') =>
    ada.call(memberRoutes.grantRoute, { params: { ...params, person: 'noor' }, body: { role } });
  assert.equal(await codeOf(grant('reader')), 'granted-by-group');
  assert.equal(
    await codeOf(ada.call(memberRoutes.endGrantRoute, { params: { ...params, person: 'noor' } })),
    'granted-by-group',
  );

  // The map may name it: then neither role nor operator helps who is not in it.
  await changeMap(service, project, (text) =>
    text.replace(
      '{accepts: {from: staging}}',
      `{accepts: {from: staging}, may: {promote: [${group}]}}`,
    ),
  );
  const staging = await service.environmentOf(project, 'staging');
  const promote = (client: Client) =>
    client.call(environmentRoutes.promoteRoute, {
      params: { ...params, environment: 'production' },
      body: {
        from: 'staging',
        artifact: staging.serves?.artifact ?? assert.fail('staging serves nothing'),
        seen: { generation: 0, artifact: null },
      },
    });
  assert.equal(await codeOf(promote(service.operator)), 'map-says-who');
  const reach = await noor.call(mapRoutes.reachRoute, { params });
  assert.deepEqual(
    reach.people.map(({ name, deeds }) => [name, deeds[0]?.includes('promotes')]),
    [
      ['ada', true],
      ['ines', false],
      ['noor', true],
    ],
  );
  // A token narrowed to the project acts by the group, too.
  const { secret } = await noor.call(peopleRoutes.makeTokenRoute, {
    body: {
      name: 'night',
      scope: { projects: [project], role: 'releaser', environments: ['production'] },
    },
  });
  const narrow = makeClient({
    address: service.address,
    headers: { authorization: `Bearer ${secret}` },
  });
  assert.equal(await codeOf(promote(narrow)), 'done');

  // Out of it, everything that came by it is gone, also behind the token.
  const stream = await fetch(
    `${service.address}${auditRoutes.eventsRoute.path}?project=${project}`,
    {
      headers: { authorization: `Bearer ${noors}`, accept: 'text/event-stream' },
    },
  );
  const heard = stream.text().then(
    () => 'ended',
    () => 'cut',
  );
  assert.equal((await vaquero('leave-group', group, 'noor')).code, 0);
  assert.equal(await heard, 'cut', 'what was listened to goes with it');
  assert.equal(await builds(), 'not-found');
  assert.equal(await codeOf(narrow.call(buildRoutes.listBuildsRoute, { params })), 'not-found');

  // It ends for all, after it was said what goes; its name is nobody's after it.
  await service.operator.call(groupRoutes.joinGroupRoute, { params: { group, person: 'noor' } });
  const ended = await vaquero('end-group', group, '--yes');
  assert.match(ended.err, /granted releaser timetable;\n.*ada, noor/);
  assert.equal(await builds(), 'not-found');
  assert.deepEqual((await service.operator.call(groupRoutes.listGroupsRoute)).groups, []);
  assert.equal((await vaquero('make-group', group)).code, 3);
  assert.equal((await vaquero('join-group', group, 'noor')).code, 3);
});

test('groups are for operators, hold people alone, and never operate', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project(project);
  const { client: ada } = await service.person('ada', 'maintainer', project);
  const make = (client: Client, name: string) =>
    client.call(groupRoutes.makeGroupRoute, { params: { group: name }, body: { shownAs: name } });
  const join = (name: string, person: string) =>
    service.operator.call(groupRoutes.joinGroupRoute, { params: { group: name, person } });
  await make(service.operator, group);
  await make(service.operator, 'quay-crew');
  const everywhere = (person: string) =>
    service.operator.call(memberRoutes.grantEverywhereRoute, {
      params: { person },
      body: { role: 'operator' },
    });
  const cases = [
    [() => make(ada, 'mine'), 'not-allowed'],
    [() => make(service.operator, 'ada'), 'name-taken'],
    [() => make(service.operator, 'reader'), 'name-invalid'],
    [() => join(group, 'quay-crew'), 'no-group'],
    [() => join('ada', 'ines'), 'no-group'],
    [() => join('nowhere', 'ada'), 'not-found'],
    [() => join(group, 'nobody-here'), 'not-found'],
    [() => everywhere(group), 'only-people-operate'],
  ] as const;
  for (const [act, code] of cases) assert.equal(await codeOf(act()), code, String(act));
  // Nobody signs in as a group.
  const signIn = service.operator.call(peopleRoutes.signInForTokenRoute, {
    body: { name: group, password: 'anything at all', token: 'x' },
  });
  assert.equal(await codeOf(signIn), 'wrong-password');
  // Two at once are one.
  await Promise.all([join(group, 'ada'), join(group, 'ada')]);
  const [first] = (await service.operator.call(groupRoutes.listGroupsRoute)).groups.slice(-1);
  assert.deepEqual(
    first?.people.map(({ name }) => name),
    ['ada'],
  );
});

test('a service of a project has a role there and tokens of its own, which open nothing else and end with it', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project(project);
  await service.project('signage');
  const { client: ada } = await service.person('ada', 'maintainer', project);
  const { client: bo } = await service.person('bo', 'builder', project);
  const adas = (await ada.call(peopleRoutes.makeTokenRoute, { body: { name: 'terminal' } })).secret;
  const vaquero = commandLine(service, join(service.state, 'home'), { VAQUERO_TOKEN: adas });
  const board = 'quay-board';
  const made = await vaquero(
    'make-service',
    project,
    board,
    '--called',
    'Quay board',
    '--role',
    'builder',
  );
  assert.equal(made.code, 0, made.err);
  const token = await vaquero('service-token', project, board, '--called', 'the board at quay 2');
  assert.match(token.err, /^A token of quay-board \(builder of timetable\) until/);
  const program = makeClient({
    address: service.address,
    headers: { authorization: `Bearer ${token.out.trim()}` },
  });
  const { projects } = await program.call(projectRoutes.listProjectsRoute);
  assert.deepEqual(
    projects.map(({ name }) => name),
    [project],
  );
  const cases = [
    // It may build (there is nothing to build yet), and is nobody who invites, makes tokens or sees people.
    [() => program.call(buildRoutes.buildAgainRoute, { params, body: {} }), 'no-commit-yet'],
    [() => program.call(memberRoutes.listMembersRoute, { params }), 'not-allowed'],
    [
      () => program.call(peopleRoutes.makeTokenRoute, { body: { name: 'more' } }),
      'token-too-narrow',
    ],
    [() => program.call(serviceRoutes.listServicesRoute, { params }), 'not-allowed'],
    // Another role: a builder makes none, and a maintainer of one project none in another.
    [() => bo.call(serviceRoutes.listServicesRoute, { params }), 'not-allowed'],
    [
      () =>
        ada.call(serviceRoutes.makeServiceRoute, {
          params: { project: 'signage', service: 'mine' },
          body: { shownAs: 'Mine', role: 'reader' },
        }),
      'not-found',
    ],
    [
      () =>
        service.operator.call(serviceRoutes.makeServiceTokenRoute, {
          params: { project: 'signage', service: board },
          body: { name: 'x' },
        }),
      'not-found',
    ],
    [
      () =>
        ada.call(serviceRoutes.makeServiceRoute, {
          params: { ...params, service: 'bo' },
          body: { shownAs: 'Bo', role: 'reader' },
        }),
      'name-taken',
    ],
    [
      () =>
        service.operator.call(memberRoutes.grantEverywhereRoute, {
          params: { person: board },
          body: { role: 'operator' },
        }),
      'only-people-operate',
    ],
  ] as const;
  for (const [act, code] of cases) assert.equal(await codeOf(act()), code, String(act));

  // A role that is taken is taken from its tokens; whoever made it may leave.
  await service.operator.call(memberRoutes.endGrantRoute, { params: { ...params, person: 'ada' } });
  assert.equal(await codeOf(program.call(projectRoutes.showProjectRoute, { params })), 'done');
  const grant = (role: 'reader' | 'builder') =>
    service.operator.call(memberRoutes.grantRoute, {
      params: { ...params, person: board },
      body: { role },
    });
  await grant('reader');
  assert.equal(
    await codeOf(program.call(buildRoutes.buildAgainRoute, { params, body: {} })),
    'not-allowed',
  );
  await service.operator.call(memberRoutes.grantRoute, {
    params: { ...params, person: 'ada' },
    body: { role: 'maintainer' },
  });
  const seen = await vaquero('services', project);
  assert.match(seen.out, /^quay-board, Quay board: reader$/m);
  assert.match(seen.out, /the board at quay 2/);
  const [own] =
    (await ada.call(serviceRoutes.listServicesRoute, { params })).services[0]?.tokens ?? [];
  assert.ok(own?.lastUsedAt != null);
  assert.equal((await vaquero('end-service', project, board, '--only', 'nothing')).code, 3);
  assert.equal((await vaquero('end-service', project, board)).code, 0);
  assert.equal(
    await codeOf(program.call(projectRoutes.showProjectRoute, { params })),
    'not-signed-in',
  );
  assert.equal((await vaquero('make-service', project, board)).code, 3);
});
