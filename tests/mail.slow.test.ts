import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { buildRoutes, type Client, mailRoutes } from '@vaquero/contracts';
import { startPostOffice } from '@vaquero/standins';
import { sql } from 'drizzle-orm';
import { commandLine } from './support/command-line.ts';
import { atEnd } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const keyIn = (text: string): string => /\/mail#(\S+)/.exec(text)?.[1] ?? assert.fail(text);
const add = (client: Client, address: string) =>
  client.call(mailRoutes.addMailRoute, { body: { address } });
const prove = (client: Client, key: string) =>
  client.call(mailRoutes.proveMailRoute, { body: { key } });

test('an address is somebody’s once its mail has reached them; commits under it bear their name', async (t) => {
  const office = await startPostOffice();
  atEnd(t, office.stop);
  let now = Date.now();
  const service = await startTestService(t, {
    clock: () => now as never,
    environment: { VAQUERO_MAIL_SERVER: office.url, VAQUERO_MAIL_FROM: 'vaquero@ferries.example' },
  });
  const made = await service.project('timetable');
  const { client: wren } = await service.person('wren', 'builder', 'timetable');
  const { client: petra } = await service.person('petra', 'builder', 'timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const author = async () => {
    const params = { project: 'timetable', build: 1 };
    const build = await service.operator.call(buildRoutes.showBuildRoute, { params });
    const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, {
      params: { project: 'timetable' },
      query: {},
    });
    assert.deepEqual(builds[0]?.commit.authorIs, build.commit.authorIs, 'lists say the same');
    return build.commit.authorIs;
  };
  assert.equal(await author(), null);

  // Two say that it is theirs; whoever reads its mail is believed, and nobody learns of the other.
  await add(petra, 'wren@kettle.example');
  const { addresses } = await add(wren, 'Wren@Kettle.example');
  assert.deepEqual(
    addresses.map(({ address, provenAt }) => [address, provenAt]),
    [['wren@kettle.example', null]],
  );
  const [forPetra, forWren] = office.mails;
  assert.deepEqual(
    [forWren?.to, forWren?.from, forWren?.subject],
    [['wren@kettle.example'], 'vaquero@ferries.example', 'Is this your address?'],
  );
  assert.match(forWren?.text ?? '', /^wren says at http:\/\/localhost:\d+ that this address/);
  assert.equal(await author(), null, 'said is not shown');
  const key = keyIn(forWren?.text ?? '');
  assert.equal((await refusalOf(prove(petra, key))).code, 'mail-link-over', 'it is not her link');
  assert.equal((await refusalOf(prove(wren, `${key}x`))).code, 'mail-link-over');
  now += 86_400_000;
  assert.match((await refusalOf(prove(wren, key))).detail, /more than a day old/);
  now += 3_600_000;
  await add(wren, 'wren@kettle.example');
  assert.equal((await refusalOf(prove(wren, key))).code, 'mail-link-over', 'another one was sent');
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: (await service.person('orla', null)).secret,
  });
  const proven = await prove(wren, keyIn(office.mails.at(-1)?.text ?? ''));
  assert.ok(proven.addresses[0]?.provenAt != null);
  assert.deepEqual(await author(), { name: 'wren', shownAs: 'wren' });
  now += 3_600_000;
  await add(petra, 'wren@kettle.example');
  const hers = keyIn(office.mails.at(-1)?.text ?? '');
  assert.equal((await refusalOf(prove(petra, hers))).code, 'mail-address-taken');
  assert.notEqual(hers, keyIn(forPetra?.text ?? ''));

  // The log says who did, and never which address: it stays for ever.
  const [rows] = await service.deps.db.execute(
    sql`select group_concat(bytes) as said from log_entries where kind like 'person.mail%'`,
  );
  const said = JSON.stringify(rows);
  assert.match(said, /person\.mail-proven/);
  assert.doesNotMatch(said, /kettle\.example|ferries\.example/);

  const one = await vaquero('mail', '--add', 'orla@ferries.example');
  assert.match(one.out, /^orla@ferries\.example +waits for its link to be followed$/m);
  const link = /\S+\/mail#\S+/.exec(office.mails.at(-1)?.text ?? '')?.[0] ?? assert.fail();
  assert.match(
    (await vaquero('mail', '--prove', link)).out,
    /^orla@ferries\.example +yours since/m,
  );
  assert.equal((await vaquero('mail', '--drop', 'Orla@ferries.example')).code, 0);
  assert.equal((await vaquero('mail')).out.trim(), 'You have no mail address here.');
  assert.equal((await vaquero('mail', '--drop', 'orla@ferries.example')).code, 3);
  assert.equal((await vaquero('mail', '--add', 'no address')).code, 2);
});

test('mail that is not taken is told, ten in an hour are enough, and without a server none is sent', async (t) => {
  const office = await startPostOffice();
  atEnd(t, office.stop);
  const service = await startTestService(t, {
    roles: [],
    environment: { VAQUERO_MAIL_SERVER: office.url, VAQUERO_MAIL_FROM: 'vaquero@ferries.example' },
  });
  office.refuse(['nobody@ferries.example']);
  const refused = await refusalOf(add(service.operator, 'nobody@ferries.example'));
  assert.deepEqual([refused.code, refused.status], ['mail-failed', 502]);
  assert.match(refused.detail, /the server does not know it|the server refuses it/);
  for (const forged of ['a@b.example\r\nBcc: c@d.example', '<a@b.example>, c@d.example', '@', ''])
    assert.equal((await refusalOf(add(service.operator, forged))).code, 'invalid-request', forged);
  for (let n = 2; n <= 10; n += 1) await add(service.operator, `box-${n}@ferries.example`);
  const many = await refusalOf(add(service.operator, 'one-more@ferries.example'));
  assert.equal(many.code, 'mail-too-many');
  assert.equal(office.mails.length, 9);
  await office.stop();
  const { client } = await service.person('wren', 'operator');
  assert.match((await refusalOf(add(client, 'wren@ferries.example'))).detail, /does not answer/);
  const other = await startTestService(t, { roles: [] });
  assert.equal((await refusalOf(add(other.operator, 'a@ferries.example'))).code, 'mail-none');
});
