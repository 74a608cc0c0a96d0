import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import {
  makeClient,
  memberRoutes,
  passwordLinkRoutes,
  peopleRoutes,
  secondFactorRoutes,
} from '@vaquero/contracts';
import { sql } from 'drizzle-orm';
import { generate } from 'otplib';
import { commandLine } from './support/command-line.ts';
import { addOperator, tomas } from './support/people.ts';
import { refusalOf, startTestService } from './support/service.ts';

const { name, password } = tomas;

test('a second factor: begun, confirmed by a code, asked for at each sign-in, each code and word good once', async (t) => {
  let now = Date.now();
  const service = await startTestService(t, { roles: [], clock: () => now as never });
  await addOperator(service);
  const open = makeClient({ address: service.address, headers: {} });
  const browser = makeClient({
    address: service.origin.replace('localhost', '127.0.0.1'),
    headers: { origin: service.origin, 'vaquero-request': 'console' },
  });
  const codeAt = (secret: string, ms = now) => generate({ secret, epoch: Math.floor(ms / 1000) });
  const signIn = (code?: string) =>
    browser.call(peopleRoutes.signInRoute, {
      body: { name, password, ...(code === undefined ? {} : { code }) },
    });
  const refusedFor = async (call: Promise<unknown>) => {
    const { code } = await refusalOf(call);
    // What was tried counts: time goes by until the next try is taken.
    now += 60_000;
    return code;
  };
  const begin = (code?: string) =>
    open.call(secondFactorRoutes.beginFactorRoute, { body: { name, password, code } });
  const confirm = (code: string) =>
    open.call(secondFactorRoutes.confirmFactorRoute, { body: { name, password, code } });

  // Who cannot sign in begins nothing; what is begun asks for nothing yet.
  const wrong = { body: { name, password: 'wrong' } };
  assert.equal(
    await refusedFor(open.call(secondFactorRoutes.beginFactorRoute, wrong)),
    'wrong-password',
  );
  assert.equal(await refusedFor(confirm('123456')), 'no-factor');
  const { secret, address } = await begin();
  assert.match(address, /^otpauth:\/\/totp\/Vaquero.*:tomas\?secret=[A-Z2-7]{32}&issuer=Vaquero/);
  assert.equal((await signIn()).factor, null);
  assert.equal(await refusedFor(confirm(await codeAt(secret, now - 3_600_000))), 'wrong-code');
  const { words } = await confirm(await codeAt(secret));
  assert.equal(new Set(words).size, 10);
  const [rows] = await service.deps.db.execute<Record<string, unknown>[]>(
    sql`select * from recovery_words`,
  );
  assert.ok(!JSON.stringify(rows).includes(words[0] ?? ''), 'words are kept hashed');

  // Name and password alone open nothing any more, by whatever way.
  assert.equal(await refusedFor(signIn()), 'code-needed');
  const token = (code?: string) =>
    open.call(peopleRoutes.signInForTokenRoute, {
      body: { name, password, token: 'desk', code },
    });
  assert.equal(await refusedFor(token()), 'code-needed');
  assert.equal(await refusedFor(signIn('000 000')), 'wrong-code');
  assert.equal(await refusedFor(signIn('x'.repeat(40))), 'wrong-code');
  const code = await codeAt(secret);
  const me = await signIn(code);
  assert.deepEqual([me.name, me.factor?.wordsLeft], [name, 10]);
  const used = await refusalOf(signIn(code));
  assert.deepEqual([used.code, 'because' in used && used.because], ['wrong-code', 'used']);
  // Two at once with one code are one sign-in.
  now += 60_000;
  const one = await codeAt(secret);
  const both = await Promise.allSettled([token(one), token(one)]);
  assert.deepEqual(both.map(({ status }) => status).sort(), ['fulfilled', 'rejected']);
  now += 60_000;
  // A code of half a minute before is good: clocks differ.
  await token(await codeAt(secret, now - 30_000));

  // A word opens once, however it is typed.
  const word = words[3] ?? '';
  now += 60_000;
  assert.equal((await signIn(word.toUpperCase().replaceAll('-', ' '))).factor?.wordsLeft, 9);
  assert.equal(await refusedFor(signIn(word)), 'wrong-code');

  // Guessing codes is slowed down like guessing passwords.
  const codes = [];
  for (let tried = 0; tried < 8; tried += 1)
    codes.push((await refusalOf(signIn(String(100_000 + tried)))).code);
  assert.ok(codes.includes('too-many-tries'), codes.join());
  now += 3_600_001;

  // By the command line; another one in its place takes a code of the one that holds.
  const vaquero = commandLine(service, join(service.state, 'home'), { VAQUERO_PASSWORD: password });
  assert.equal((await vaquero('sign-in', name, '--code', '000000')).code, 3);
  const done = await vaquero('sign-in', name, '--code', await codeAt(secret));
  assert.equal(done.code, 0, done.err);
  now += 60_000;
  assert.equal(await refusedFor(begin()), 'code-needed');
  const next = await begin(await codeAt(secret));
  now += 60_000;
  await confirm(await codeAt(next.secret));
  now += 60_000;
  assert.equal(await refusedFor(signIn(await codeAt(secret))), 'wrong-code');
  assert.equal(await refusedFor(signIn(words[0])), 'wrong-code');

  // A link for a lost password sets the password, and does not take the place of the factor.
  const { client } = await service.person('ada', 'operator');
  const link = await client.call(passwordLinkRoutes.makePasswordLinkRoute, {
    params: { person: name },
  });
  const reply = await fetch(`${service.address}/api/password-links/used`, {
    method: 'POST',
    headers: {
      origin: service.origin,
      'vaquero-request': 'console',
      'content-type': 'application/json',
    },
    body: JSON.stringify({
      key: new URL(link.address).hash.slice(1),
      password: 'rowing to Orrin at ten',
    }),
  });
  assert.deepEqual([reply.status, reply.headers.get('set-cookie')], [200, null]);

  // Who lost it asks an operator; a reader may not end it.
  const { client: reader } = await service.person('wren', 'reader');
  const end = (by: typeof reader) =>
    by.call(secondFactorRoutes.endFactorOfRoute, { params: { person: name } });
  assert.equal((await refusalOf(end(reader))).code, 'not-allowed');
  await end(client);
  assert.equal((await refusalOf(end(client))).code, 'no-factor');
  const [logged] = await service.deps.db.execute(sql`select kind, bytes from log_entries`);
  const entries = logged as unknown as readonly { kind: string; bytes: unknown }[];
  const kinds = entries.map(({ kind }) => kind).filter((kind) => /factor|recovery/.test(kind));
  assert.deepEqual(kinds.sort(), [
    'person.factor-ended',
    'person.factor-set',
    'person.factor-set',
    'person.recovery-word-used',
  ]);
  assert.ok(!entries.some(({ bytes }) => String(bytes).includes(secret)));
});

test('a second factor is demanded from a role on: who has none is signed out, and sets one up before anything else', async (t) => {
  let now = Date.now();
  const service = await startTestService(t, { roles: [], clock: () => now as never });
  await service.project('timetable');
  await addOperator(service);
  const open = makeClient({ address: service.address, headers: {} });
  const signIn = (code?: string) =>
    makeClient({
      address: service.origin.replace('localhost', '127.0.0.1'),
      headers: { origin: service.origin, 'vaquero-request': 'console' },
    }).call(peopleRoutes.signInRoute, { body: { name, password, code } });
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const demand = (factorFrom: 'operator' | null) =>
    service.operator.call(secondFactorRoutes.setSignInRuleRoute, { body: { factorFrom } });
  assert.match((await vaquero('sign-in-rule')).out, /demanded of nobody/);
  // Nobody locks themselves out.
  assert.equal((await refusalOf(demand('operator'))).code, 'factor-first');
  await service.deps.db.execute(
    sql`insert into second_factors (person_id, sealed, since, last_step) select id, 'x', 1, 0 from people where name = 'ines'`,
  );
  await signIn();
  const set = await vaquero('sign-in-rule', '--second-factor-from', 'operator');
  assert.match(
    set.out,
    /^A second factor is demanded of every operator, and whoever stands above\.$/m,
    set.err,
  );
  assert.match(set.err, /^Signed out, as they have none: 1\.$/m);

  // The right password leads to no more than setting one up; whoever is no operator goes on.
  assert.equal((await refusalOf(signIn())).code, 'factor-demanded');
  const asked = { name, password, token: 'desk' };
  const forToken = open.call(peopleRoutes.signInForTokenRoute, { body: asked });
  assert.equal((await refusalOf(forToken)).code, 'factor-demanded');
  const { secret } = await open.call(secondFactorRoutes.beginFactorRoute, {
    body: { name, password },
  });
  const code = () => generate({ secret, epoch: Math.floor(now / 1000) });
  await open.call(secondFactorRoutes.confirmFactorRoute, {
    body: { name, password, code: await code() },
  });
  now += 60_000;
  assert.equal((await signIn(await code())).name, name);
  now += 60_000;
  const own = open.call(secondFactorRoutes.endFactorRoute, {
    body: { name, password, code: await code() },
  });
  assert.equal((await refusalOf(own)).code, 'factor-demanded');
  const { people } = await service.operator.call(memberRoutes.listPeopleRoute);
  assert.deepEqual(
    people.filter(({ hasFactor }) => hasFactor).map((one) => one.name),
    ['ines', name],
  );
  await demand(null);
  now += 60_000;
  await open.call(secondFactorRoutes.endFactorRoute, {
    body: { name, password, code: await code() },
  });
  assert.equal((await signIn()).factor, null);
});

test('whoever has the password alone puts no factor of theirs in the place of one that comes to hold meanwhile', async (t) => {
  let now = Date.now();
  const service = await startTestService(t, { roles: [], clock: () => now as never });
  await addOperator(service);
  const open = makeClient({ address: service.address, headers: {} });
  const begin = (code?: string) =>
    open.call(secondFactorRoutes.beginFactorRoute, { body: { name, password, code } });
  const confirm = (code: string) =>
    open.call(secondFactorRoutes.confirmFactorRoute, { body: { name, password, code } });
  const { secret } = await begin();
  const code = await generate({ secret, epoch: Math.floor(now / 1000) });
  const [own, ...theirs] = await Promise.allSettled([confirm(code), begin(), begin('000000')]);
  now += 3_600_001;
  // Either theirs came first, and nothing holds yet, or one's own holds, and theirs were asked for a code of it.
  if (own?.status === 'fulfilled') assert.ok(theirs.every(({ status }) => status === 'rejected'));
  else assert.ok(theirs.some(({ status }) => status === 'fulfilled'));
  for (const one of theirs) {
    if (one.status === 'rejected') continue;
    const { secret: strange } = one.value as { secret: string };
    const next = await confirm(
      await generate({ secret: strange, epoch: Math.floor(now / 1000) }),
    ).then(
      () => 'holds',
      () => 'refused',
    );
    assert.ok(own?.status === 'rejected' || next === 'refused');
    now += 3_600_001;
  }
});
