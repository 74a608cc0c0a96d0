import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import {
  buildRoutes,
  type Client,
  groupRoutes,
  makeClient,
  memberRoutes,
  passwordLinkRoutes,
  peopleRoutes,
} from '@vaquero/contracts';
import type { ProjectRole, Role } from '@vaquero/core';
import type { z } from 'zod';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { addOperator } from './support/people.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';

const project = 'timetable';
const params = { project };
const password = 'ferry to Orrin at nine';

const keyOf = (address: string): string => new URL(address).hash.slice(1);
const invite = (client: Client, role: ProjectRole) =>
  client.call(memberRoutes.inviteRoute, { params, body: { role } });
/** Joins as a browser at the console's own address does. */
const joins = (service: TestService, key: string, name: string, more: object = {}) =>
  makeClient({
    address: service.origin.replace('localhost', '127.0.0.1'),
    headers: { origin: service.origin, 'vaquero-request': 'console' },
  }).call(memberRoutes.joinRoute, {
    body: { key, name, shownAs: name, password, ...more },
  }) as Promise<z.output<typeof peopleRoutes.me>>;
const rolesOf = async (client: Client) => {
  const { members } = await client.call(memberRoutes.listMembersRoute, { params });
  return members.map(({ name, role, everywhere }) => `${name} ${role}${everywhere ? '!' : ''}`);
};
const codeOf = async (call: Promise<unknown>) => (await refusalOf(call)).code;

test('an invitation makes one person with its role, once, while it lasts and its maker may', async (t) => {
  let late = 0;
  const service = await startTestService(t, {
    roles: [],
    clock: () => (Date.now() + late) as never,
  });
  await service.project(project);
  const { client: maintainer } = await service.person('tomas', 'maintainer', project);
  const { client: builder } = await service.person('wren', 'builder', project);
  // An operator is one of the installation, not of a project.
  assert.equal(await codeOf(invite(maintainer, 'operator' as never)), 'invalid-request');
  assert.equal(await codeOf(invite(builder, 'reader')), 'not-allowed');

  // A name that a map gives rights to is nobody's to choose.
  await changeMap(service, project, (text) =>
    text.replace(
      '{accepts: {from: staging}}',
      '{accepts: {from: staging}, may: {promote: [chief]}}',
    ),
  );
  const { address, id } = await invite(maintainer, 'builder');
  const key = keyOf(address);
  assert.ok(!new URL(address).search.includes(key), 'no server is told of the key');
  const shown = await builder.call(memberRoutes.showInvitationRoute, { body: { key } });
  assert.deepEqual([shown.project, shown.role, shown.by], [project, 'builder', 'tomas']);
  for (const [name, more, code] of [
    ['wren', {}, 'name-taken'],
    ['chief', {}, 'name-taken'],
    ['Noor', {}, 'name-invalid'],
    ['nobody', {}, 'name-invalid'],
    ['noor', { password: 'short' }, 'password-weak'],
    ['noor', { key: 'x' }, 'invitation-over'],
  ] as const)
    assert.equal(await codeOf(joins(service, key, name, more)), code, name);
  // Used by two at once it makes one person.
  const both = await Promise.allSettled([
    joins(service, key, 'noor'),
    joins(service, key, 'petra'),
  ]);
  assert.deepEqual(both.map(({ status }) => status).sort(), ['fulfilled', 'rejected']);
  const [joined] = both.flatMap((one) => (one.status === 'fulfilled' ? [one.value] : []));
  assert.deepEqual(joined?.grants, [{ project, role: 'builder', group: null }]);
  assert.equal(await codeOf(joins(service, key, 'late-one')), 'invitation-over');
  const other = makeClient({ address: service.origin.replace('localhost', '127.0.0.1') });
  assert.equal(
    await codeOf(
      other.call(memberRoutes.joinRoute, { body: { key, name: 'x', shownAs: 'x', password } }),
    ),
    'forged-request',
  );

  // Taken back, too late, or by one who may not any more: over.
  const [back, tooLate, orphan] = [
    await invite(maintainer, 'reader'),
    await invite(service.operator, 'reader'),
    await invite(maintainer, 'maintainer'),
  ];
  const end = (invitation: string) =>
    maintainer.call(memberRoutes.endInvitationRoute, { params: { project, invitation } });
  await end(back.id);
  assert.equal(await codeOf(end(back.id)), 'not-found');
  assert.equal(await codeOf(end(id)), 'not-found');
  assert.equal(await codeOf(joins(service, keyOf(back.address), 'aa')), 'invitation-over');
  await service.operator.call(memberRoutes.endGrantRoute, { params: { project, person: 'tomas' } });
  assert.equal(await codeOf(joins(service, keyOf(orphan.address), 'bb')), 'invitation-over');
  late = 7 * 86_400_000 + 1;
  assert.equal(await codeOf(joins(service, keyOf(tooLate.address), 'cc')), 'invitation-over');
});

test('roles are given and taken up to one’s own, at once, and the last operator stays', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project(project);
  const { client: maintainer } = await service.person('tomas', 'maintainer', project);
  const { client: noor } = await service.person('noor', null);
  const builds = () => noor.call(buildRoutes.listBuildsRoute, { params });
  assert.equal(await codeOf(builds()), 'not-found');
  const grant = (client: Client, person: string, role: ProjectRole) =>
    client.call(memberRoutes.grantRoute, { params: { project, person }, body: { role } });
  const end = (client: Client, person: string) =>
    client.call(memberRoutes.endGrantRoute, { params: { project, person } });
  await grant(maintainer, 'noor', 'builder');
  await builds();
  assert.deepEqual(await rolesOf(maintainer), [
    'ines operator!',
    'noor builder',
    'tomas maintainer',
  ]);
  await grant(maintainer, 'noor', 'reader');
  assert.deepEqual((await rolesOf(maintainer))[1], 'noor reader');
  const cases = [
    [() => grant(maintainer, 'noor', 'operator' as never), 'invalid-request'],
    [() => grant(maintainer, 'ines', 'reader'), 'granted-everywhere'],
    [() => end(maintainer, 'ines'), 'granted-everywhere'],
    [() => grant(maintainer, 'nobody-here', 'reader'), 'not-found'],
    [() => grant(noor, 'noor', 'maintainer'), 'not-allowed'],
  ] as const;
  for (const [act, code] of cases) assert.equal(await codeOf(act()), code);
  await end(maintainer, 'noor');
  assert.equal(await codeOf(builds()), 'not-found');
  // Twice is once.
  await end(maintainer, 'noor');

  const everywhere = (client: Client, person: string, role: Role | null) =>
    client.call(memberRoutes.grantEverywhereRoute, { params: { person }, body: { role } });
  assert.equal(await codeOf(everywhere(service.operator, 'ines', null)), 'last-operator');
  assert.equal(await codeOf(everywhere(maintainer, 'noor', 'operator')), 'not-allowed');
  await everywhere(service.operator, 'noor', 'operator');
  // Of two operators who take each other's role at once, one stays.
  const both = await Promise.allSettled([
    everywhere(service.operator, 'noor', null),
    everywhere(noor, 'ines', null),
  ]);
  assert.ok(both.some(({ status }) => status === 'rejected'));
  const left = await Promise.all(
    [service.operator, noor].map((client) =>
      client.call(memberRoutes.listPeopleRoute).then(
        () => 1,
        () => 0,
      ),
    ),
  );
  assert.equal(left[0] ?? 0 + (left[1] ?? 0), 1);
});

test('members by the command line', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await service.project(project);
  await service.person('noor', 'builder', project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const { out } = await vaquero('invite', project, '--role', 'releaser');
  assert.match(out, /^http:\/\/localhost:\d+\/join#[\w-]{43}$/);
  const shown = await vaquero('members', project);
  assert.match(shown.out, /^noor +noor +builder/m);
  assert.match(shown.out, /^ines +ines +operator, everywhere/m);
  assert.match(shown.out, /^An invitation as releaser, by ines, waits until /m);
  assert.equal(
    (await vaquero('grant', project, 'noor', 'releaser')).out,
    'noor is releaser of timetable.',
  );
  assert.equal((await vaquero('grant', project, 'noor', 'king')).code, 2);
  assert.match((await vaquero('people')).out, /^noor +noor +releaser timetable/m);
  assert.equal((await vaquero('grant-everywhere', 'noor', 'reader')).code, 0);
  await vaquero('grant-everywhere', 'noor', 'none');
  await vaquero('grant', project, 'noor', 'none');
  assert.doesNotMatch((await vaquero('members', project)).out, /noor/);
});

test('a password is changed by whoever knows it, and ends every other session; a browser is signed out from another', async (t) => {
  const service = await startTestService(t, { roles: [] });
  await addOperator(service);
  const address = service.origin.replace('localhost', '127.0.0.1');
  const own = { origin: service.origin, 'vaquero-request': 'console' };
  /** Signs in as a browser does; the client bears the cookie. */
  const signIn = async (word: string): Promise<Client> => {
    const reply = await fetch(`${address}/api/sign-in`, {
      method: 'POST',
      headers: { ...own, 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'tomas', password: word }),
    });
    assert.equal(reply.status, 200, await reply.text());
    const cookie = reply.headers.get('set-cookie')?.split(';')[0] ?? '';
    return makeClient({ address, headers: { ...own, cookie } });
  };
  const [here, there, third] = [
    await signIn('lune quay'),
    await signIn('lune quay'),
    await signIn('lune quay'),
  ];
  const sessionsOf = async (client: Client) =>
    (await client.call(peopleRoutes.listSessionsRoute)).sessions;
  const all = await sessionsOf(here);
  assert.deepEqual(all.map(({ isOwn }) => isOwn).sort(), [false, false, true]);
  const [theirs] = (await sessionsOf(third)).filter(({ isOwn }) => isOwn);
  const end = (client: Client, session: string) =>
    client.call(peopleRoutes.endSessionRoute, { params: { session } });
  await end(here, theirs?.id ?? '');
  assert.equal(await codeOf(sessionsOf(third)), 'not-signed-in');
  const { client: wren } = await service.person('wren', null);
  for (const session of [all[0]?.id ?? '', '%', 'x'])
    assert.equal(await codeOf(end(wren, session)), 'not-found', 'nobody else’s');

  const change = (client: Client, now: string, next: string) =>
    client.call(peopleRoutes.changePasswordRoute, { body: { now, next } });
  assert.equal(await codeOf(change(here, 'lune quay', 'short')), 'password-weak');
  assert.equal(await codeOf(change(here, 'not it at all', password)), 'wrong-password');
  await change(here, 'lune quay', password);
  assert.equal((await sessionsOf(here)).length, 1);
  assert.equal(await codeOf(sessionsOf(there)), 'not-signed-in');
  assert.equal((await sessionsOf(await signIn(password))).length, 2);
});

test('who lost their password sets another one by a link of an operator, once; every session ends with it', async (t) => {
  let late = 0;
  const service = await startTestService(t, {
    roles: [],
    clock: () => (Date.now() + late) as never,
  });
  await service.project(project);
  const { client: noor } = await service.person('noor', 'builder', project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const browser = makeClient({
    address: service.origin.replace('localhost', '127.0.0.1'),
    headers: { origin: service.origin, 'vaquero-request': 'console' },
  });
  const make = async () => {
    const made = await vaquero('password-link', 'noor');
    assert.match(made.err, /sets the password of noor, once, until/);
    return keyOf(made.out.trim());
  };
  const use = (key: string, next = password) =>
    browser.call(passwordLinkRoutes.usePasswordLinkRoute, { body: { key, password: next } });
  const signIn = (word: string) =>
    browser.call(peopleRoutes.signInRoute, { body: { name: 'noor', password: word } });

  // For operators alone, of people alone.
  const wish = (person: string, client = service.operator) =>
    client.call(passwordLinkRoutes.makePasswordLinkRoute, { params: { person } });
  assert.equal(await codeOf(wish('ines', noor)), 'not-allowed');
  assert.equal(await codeOf(wish('nobody-here')), 'not-found');
  await service.operator.call(groupRoutes.makeGroupRoute, {
    params: { group: 'release-desk' },
    body: { shownAs: 'Release desk' },
  });
  assert.equal(await codeOf(wish('release-desk')), 'no-group');

  const first = await make();
  const key = await make();
  assert.equal(await codeOf(use(first)), 'password-link-over', 'the newer one takes its place');
  const shown = await browser.call(passwordLinkRoutes.showPasswordLinkRoute, { body: { key } });
  assert.equal(shown.name, 'noor');
  assert.equal(await codeOf(use(key, 'short')), 'password-weak');
  assert.equal(await codeOf(use('guessed')), 'password-link-over');
  const bare = makeClient({ address: service.address });
  const forged = bare.call(passwordLinkRoutes.usePasswordLinkRoute, { body: { key, password } });
  assert.equal(await codeOf(forged), 'forged-request');
  // Used by two at once it sets one.
  const both = await Promise.allSettled([use(key), use(key, 'ferry to Merrow at ten')]);
  assert.deepEqual(both.map(({ status }) => status).sort(), ['fulfilled', 'rejected']);
  assert.equal(await codeOf(use(key)), 'password-link-over');
  const set = both[0].status === 'fulfilled' ? password : 'ferry to Merrow at ten';
  assert.equal((await signIn(set)).name, 'noor');
  const next = await make();
  late = 86_400_001;
  assert.equal(await codeOf(use(next)), 'password-link-over');
});
