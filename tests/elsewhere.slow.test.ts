import assert from 'node:assert/strict';
import test, { type TestContext } from 'node:test';
import { type Me, mailRoutes } from '@vaquero/contracts';
import { readApiConfig } from '@vaquero/service';
import { startIdentityProvider, startPostOffice } from '@vaquero/standins';
import { addOperator } from './support/people.ts';
import { atEnd } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';

const client = 'vaquero';
const secret = 'a word between them';

async function begun(t: TestContext) {
  const provider = await startIdentityProvider({
    client,
    secret,
    people: [
      { subject: 'u-17', shownAs: 'Tomas' },
      { subject: 'u-18', shownAs: 'Petra' },
      {
        subject: 'u-19',
        shownAs: 'Wren',
        mail: { address: 'Wren@ferries.example', isVerified: true },
      },
      {
        subject: 'u-20',
        shownAs: 'Sly',
        mail: { address: 'wren@ferries.example', isVerified: false },
      },
      {
        subject: 'u-21',
        shownAs: 'Twin',
        mail: { address: 'wren@ferries.example', isVerified: true },
      },
    ],
  });
  atEnd(t, provider.stop);
  const office = await startPostOffice();
  atEnd(t, office.stop);
  let late = 0;
  const service = await startTestService(t, {
    roles: [],
    clock: () => (Date.now() + late) as never,
    environment: {
      VAQUERO_ELSEWHERE_ISSUER: provider.issuer,
      VAQUERO_ELSEWHERE_CLIENT: client,
      VAQUERO_ELSEWHERE_SECRET: secret,
      VAQUERO_ELSEWHERE_CALLED: 'the harbour office',
      VAQUERO_MAIL_SERVER: office.url,
      VAQUERO_MAIL_FROM: 'vaquero@ferries.example',
    },
  });
  await addOperator(service);
  const wren = await service.person('wren', null);
  return { service, provider, office, wren, wait: (ms: number) => (late += ms) };
}

/** A browser at the console: it keeps cookies, and says where it is. */
function browserAt({ origin, address }: TestService) {
  const cookies = new Map<string, string>();
  const call = async (method: string, path: string, body?: object) => {
    const reply = await fetch(`${address}${path}`, {
      method,
      headers: {
        origin,
        'vaquero-request': 'console',
        'content-type': 'application/json',
        cookie: [...cookies].map(([name, value]) => `${name}=${value}`).join('; '),
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    for (const one of reply.headers.getSetCookie()) {
      const [name = '', value = ''] = (one.split(';', 1)[0] ?? '').split('=', 2);
      if (value === '') cookies.delete(name);
      else cookies.set(name, value);
    }
    const text = await reply.text();
    return {
      status: reply.status,
      body: (text === '' ? null : JSON.parse(text)) as Me & {
        code: string;
        why: string;
        address: string;
      },
    };
  };
  return { call, cookies };
}

/** Goes where it is sent, chooses who it is there, and returns the query with which it is sent back. */
async function goAndBe(address: string, who: string): Promise<string> {
  const page = await (await fetch(address)).text();
  const href = new RegExp(`<a href="([^"]+)">${who}</a>`).exec(page)?.[1] ?? assert.fail(page);
  const back = new URL(href.replaceAll('&amp;', '&'));
  assert.equal(back.pathname, '/sign-in/back');
  return back.search;
}

type Browser = ReturnType<typeof browserAt>;
const answered = (browser: Browser, search: string) =>
  browser.call('POST', '/api/sign-in/elsewhere/answered', { search });
async function comes(browser: Browser, who: string, from = '/api/sign-in/elsewhere/begun') {
  const { body } = await browser.call('POST', from);
  return answered(browser, await goAndBe(body.address, who));
}
const signIn = (browser: Browser, name: string, password: string) =>
  browser.call('POST', '/api/sign-in', { name, password });

test('somebody joins what they are elsewhere while signed in, and signs in by it from then on, until they leave', async (t) => {
  const { service } = await begun(t);
  const browser = browserAt(service);
  const shown = await browser.call('GET', '/api/sign-in/elsewhere');
  assert.deepEqual(shown.body, { called: 'the harbour office' });

  // Known there is not known here.
  const unknown = await comes(browser, 'Tomas');
  assert.deepEqual([unknown.status, unknown.body.code], [403, 'elsewhere-unknown']);
  assert.equal((await browser.call('POST', '/api/me/elsewhere')).body.code, 'not-signed-in');
  await signIn(browser, 'tomas', 'lune quay');
  const joined = await comes(browser, 'Tomas', '/api/me/elsewhere');
  assert.equal(joined.status, 200);
  assert.notEqual(joined.body.elsewhereSince, null);

  const another = browserAt(service);
  const came = await comes(another, 'Tomas');
  assert.deepEqual([came.status, came.body.name, came.body.through], [200, 'tomas', 'session']);
  assert.equal((await another.call('GET', '/api/me')).body.name, 'tomas');
  assert.equal((await comes(browserAt(service), 'Petra')).body.code, 'elsewhere-unknown');
  const declined = await comes(browserAt(service), 'Nobody');
  assert.deepEqual(
    [declined.body.code, declined.body.why],
    ['elsewhere-failed', 'it was declined there'],
  );

  // Nobody takes what somebody else is joined with.
  await addOperator(service, { name: 'ada', shownAs: 'Ada', password: 'lune quay' } as never);
  const ada = browserAt(service);
  await signIn(ada, 'ada', 'lune quay');
  assert.equal((await comes(ada, 'Tomas', '/api/me/elsewhere')).body.code, 'elsewhere-taken');
  assert.equal((await ada.call('GET', '/api/me')).body.elsewhereSince, null);

  // What one began to join is joined with nobody who signed in meanwhile in that browser.
  const { body } = await ada.call('POST', '/api/me/elsewhere');
  const search = await goAndBe(body.address, 'Petra');
  await signIn(ada, 'tomas', 'lune quay');
  assert.equal((await answered(ada, search)).body.code, 'not-signed-in');

  assert.equal((await another.call('DELETE', '/api/me/elsewhere')).status, 204);
  assert.equal((await another.call('DELETE', '/api/me/elsewhere')).body.code, 'elsewhere-none');
  assert.equal((await comes(browserAt(service), 'Tomas')).body.code, 'elsewhere-unknown');
});

test('what comes from elsewhere is believed of the browser that began, once, in time, and as it was signed', async (t) => {
  const { service, provider, wait } = await begun(t);
  const own = browserAt(service);
  await signIn(own, 'tomas', 'lune quay');
  await comes(own, 'Tomas', '/api/me/elsewhere');

  // Each lie is told from the truth; none says what was in it.
  for (const how of ['nonce', 'issuer', 'key', 'audience', 'late', 'early'] as const) {
    provider.lie(how);
    const told = await comes(browserAt(service), 'Tomas');
    assert.deepEqual([told.status, told.body.code], [401, 'elsewhere-failed'], how);
    assert.match(told.body.why, /^what it said does not hold/, how);
  }
  provider.lie(null);

  // An answer of another browser's, one used twice, one with another state, one that came late.
  const began = browserAt(service);
  const { body } = await began.call('POST', '/api/sign-in/elsewhere/begun');
  const search = await goAndBe(body.address, 'Tomas');
  const stranger = await answered(browserAt(service), search);
  assert.deepEqual(
    [stranger.body.code, stranger.body.why],
    ['elsewhere-failed', 'this browser did not begin it, or long ago'],
  );
  const sealed = new Map(began.cookies);
  assert.equal((await answered(began, search)).status, 200);
  const twice = browserAt(service);
  for (const [name, value] of sealed) twice.cookies.set(name, value);
  assert.equal((await answered(twice, search)).body.code, 'elsewhere-failed');
  const other = browserAt(service);
  const { body: next } = await other.call('POST', '/api/sign-in/elsewhere/begun');
  const mixed = (await goAndBe(next.address, 'Tomas')).replace(/state=[^&]+/, 'state=x');
  assert.equal((await answered(other, mixed)).body.code, 'elsewhere-failed');
  const slow = browserAt(service);
  const { body: long } = await slow.call('POST', '/api/sign-in/elsewhere/begun');
  const lateAnswer = await goAndBe(long.address, 'Tomas');
  wait(600_001);
  assert.equal((await answered(slow, lateAnswer)).body.code, 'elsewhere-failed');
  // A page of another site begins nothing.
  const forged = await fetch(`${service.address}/api/sign-in/elsewhere/begun`, { method: 'POST' });
  assert.equal(forged.status, 403);

  // Away, it is said; name and password go on.
  await provider.stop();
  const away = await comes(browserAt(service), 'Tomas').catch(() => null);
  assert.equal(away, null);
  assert.equal((await signIn(browserAt(service), 'tomas', 'lune quay')).status, 200);
});

test('an issuer is named with its secret, and over https unless it is on this machine', () => {
  const usual = {
    VAQUERO_STATE: '/tmp/x',
    VAQUERO_DATABASE_URL: 'mysql://x@127.0.0.1/x',
    VAQUERO_RUNNER_TOKEN: 'x'.repeat(30),
    VAQUERO_EDGE_TOKEN: 'x'.repeat(30),
  };
  const issuer = 'https://id.harbour.example';
  assert.throws(
    () => readApiConfig({ ...usual, VAQUERO_ELSEWHERE_ISSUER: issuer }),
    /VAQUERO_ELSEWHERE_SECRET: must be given/,
  );
  const plain = {
    VAQUERO_ELSEWHERE_ISSUER: 'http://id.harbour.example',
    VAQUERO_ELSEWHERE_SECRET: 'x',
  };
  assert.throws(() => readApiConfig({ ...usual, ...plain }), /must be https/);
  const read = readApiConfig({
    ...usual,
    VAQUERO_ELSEWHERE_ISSUER: issuer,
    VAQUERO_ELSEWHERE_SECRET: 'x',
  });
  assert.equal(read.elsewhere?.called, 'id.harbour.example');
});

test('whoever has shown here that an address is theirs is known by it, where the issuer has made sure of it, too', async (t) => {
  const { service, office, wren } = await begun(t);
  const come = async (who: string) => (await comes(browserAt(service), who)).body;
  const address = 'wren@ferries.example';
  await wren.client.call(mailRoutes.addMailRoute, { body: { address } });
  assert.equal((await come('Wren')).code, 'elsewhere-unknown', 'said here is not shown');
  const key = /\/mail#(\S+)/.exec(office.mails[0]?.text ?? '')?.[1] ?? assert.fail();
  await wren.client.call(mailRoutes.proveMailRoute, { body: { key } });
  assert.equal((await come('Sly')).code, 'elsewhere-unknown', 'the issuer is not sure');
  assert.equal((await come('Wren')).name, 'wren');
  // Joined with one, she is not joined with another of the same address; and stays joined without it.
  assert.equal((await come('Twin')).code, 'elsewhere-unknown');
  await wren.client.call(mailRoutes.dropMailRoute, { body: { address } });
  assert.equal((await come('Wren')).name, 'wren');
});
