import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import test from 'node:test';
import { admissionRoutes, type EnvironmentSeen, type RoutingTable } from '@vaquero/contracts';
import { hostLabelOf } from '@vaquero/core';
import { memberPage } from './support/admission.ts';
import { commandLine } from './support/command-line.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { askEdge, refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const opening = { accept: 'text/html', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
const hashOf = (text: string) => createHash('sha256').update(text).digest('hex');

const serving = (service: TestService, name: string): Promise<EnvironmentSeen> =>
  until(`${name} serves`, async () => {
    const found = await service.environmentOf(project, name).catch(() => null);
    return found !== null && found.serves?.confirmedAt != null && found;
  });

/** A service with staging for everybody, and a preview of a branch for members. */
async function begun(t: Parameters<typeof startTestService>[0]) {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await changeMap(service, project, (text) =>
    text.replace('each: {proposed-into: main}', 'each: {branch: "try/*"}'),
  );
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay');
  await made.copy.commit('Quay', {
    'vaquero.yaml': recipeOf(`${writesPage('quay')}; echo "a{}" > out/a.css`),
  });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  const { serves } = await serving(service, 'try-quay');
  return { service, made, host: `try-quay.${project}.localhost`, artifact: serves?.artifact };
}

/** What a browser gets that is sent for a word: its cookie, and what it asks the console for. */
async function sentFor(service: TestService, host: string, path = '/', cookie = '') {
  const page = await service.page(host, path, { ...opening, ...(cookie === '' ? {} : { cookie }) });
  assert.equal(page.status, 303, page.text);
  const to = new URL(page.headers.location ?? '');
  const [set = ''] = page.headers['set-cookie'] ?? [];
  return {
    page,
    to,
    cookie: cookie === '' ? (set.split(';')[0] ?? '') : cookie,
    asked: {
      host: to.searchParams.get('host') ?? '',
      visitor: to.searchParams.get('visitor'),
      to: to.searchParams.get('to') ?? '/',
    },
  };
}

test('a preview is for members: others are sent for a word, and come back with one that is theirs alone', async (t) => {
  const { service, host } = await begun(t);
  // Nothing of it is given away: neither a page nor a part of one, whatever is asked for.
  for (const [path, headers, status] of [
    ['/', opening, 303],
    ['/a.css', { 'sec-fetch-mode': 'no-cors', 'sec-fetch-site': 'same-origin' }, 401],
    ['/a.css', {}, 401],
    ['/none', {}, 401],
    ['/', { ...opening, 'sec-fetch-site': 'cross-site' }, 303],
    ['/', { ...opening, 'sec-fetch-site': 'same-site', 'sec-fetch-dest': 'iframe' }, 403],
    ['/a.css', { 'sec-fetch-site': 'same-site', 'sec-fetch-mode': 'no-cors' }, 403],
  ] as const) {
    const page = await service.page(host, path, headers);
    assert.equal(page.status, status, `${path} ${JSON.stringify(headers)}`);
    assert.equal(page.headers['cache-control'], 'no-store');
    assert.doesNotMatch(page.text, /quay/);
  }
  const robots = await service.page(host, '/robots.txt');
  assert.deepEqual([robots.status, robots.text], [200, 'User-agent: *\nDisallow: /\n']);

  const { to, cookie, asked, page } = await sentFor(service, host, '/a.css?x=1');
  assert.equal(to.origin + to.pathname, `${service.origin}/admit`);
  assert.match(page.headers['set-cookie']?.[0] ?? '', /; HttpOnly; SameSite=Lax$/);
  assert.equal(page.headers['referrer-policy'], 'no-referrer');
  assert.deepEqual(asked.visitor, hashOf(cookie.split('=')[1] ?? ''));

  // A member gets a word; nobody else does, and is not told whether there is such a site.
  const { client: stranger } = await service.person('noor', null);
  const { client: member } = await service.person('wren', 'reader', project);
  const wish = (client = member, more: object = {}) =>
    client.call(admissionRoutes.passRoute, { body: { ...asked, ...more } });
  const refusals = await Promise.all([
    refusalOf(wish(stranger)),
    refusalOf(wish(stranger, { host: 'none.timetable.localhost' })),
    refusalOf(wish(member, { host: 'evil.example' })),
  ]);
  assert.deepEqual(
    refusals.map(({ code }) => code),
    ['not-admitted', 'not-admitted', 'not-admitted'],
  );
  const { address, pass } = await wish();
  const way = new URL(address ?? '');
  assert.equal(way.hostname, host);
  const enter = `${way.pathname}${way.search}`;

  // The word is for the visitor who asked: in another browser, altered, or at another host it opens nothing.
  const other = await sentFor(service, host);
  for (const [path, headers] of [
    [enter, opening],
    [enter, { ...opening, cookie: other.cookie }],
    [enter.replace('wren', 'ines'), { ...opening, cookie }],
    [enter.replace(/word=[^&]*/, 'word=x'), { ...opening, cookie }],
  ] as const) {
    const back = await service.page(host, path, headers);
    assert.deepEqual(
      [back.status, back.headers.location?.startsWith(`${service.origin}/admit?`)],
      [303, true],
      path,
    );
    assert.doesNotMatch(String(back.headers.location), /word/);
  }
  const let_in = await service.page(host, enter, { ...opening, cookie });
  assert.deepEqual([let_in.status, let_in.headers.location], [303, '/a.css?x=1']);
  const own = `${cookie}; ${let_in.headers['set-cookie']?.[0]?.split(';')[0]}`;
  const seen = await service.page(host, '/', { ...opening, cookie: own });
  assert.deepEqual([seen.status, /quay/.test(seen.text)], [200, true]);
  assert.match(String(seen.headers['cache-control']), /^private/);
  assert.equal(seen.headers['cross-origin-resource-policy'], 'same-origin');
  // The word alone opens nothing, and neither does it at another host.
  const alone = await service.page(host, '/', { ...opening, 'vaquero-pass': pass });
  assert.equal(alone.status, 303);
  await changeMap(service, project, (text) =>
    text.replace('follows: {branch: main}', 'follows: {branch: main}, admits: members'),
  );
  const elsewhere = await service.page(`staging.${project}.localhost`, '/', {
    ...opening,
    cookie: own,
  });
  assert.equal(elsewhere.status, 303);
  // Nothing leads out of the site.
  const open = await wish(member, { to: '//evil.example/' });
  assert.equal(new URL(open.address ?? '').searchParams.get('to'), '/');
  const forged = await service.page(host, `${enter}&to=//evil.example`.replace(/&to=[^&]*/, ''), {
    ...opening,
    cookie,
  });
  assert.equal(forged.headers.location, '/');
});

test('a pass ends, a program shows its own, and who has one goes on while the api is away', async (t) => {
  let late = 0;
  const service = await startTestService(t, { clock: () => (Date.now() + late) as never });
  const made = await service.project(project);
  await changeMap(service, project, (text) =>
    text.replace('follows: {branch: main}', 'follows: {branch: main}, admits: members'),
  );
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const host = `staging.${project}.localhost`;
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const { out } = await vaquero('pass', project, 'staging', '--quiet');
  const shown = { 'vaquero-pass': out.trim() };
  assert.equal((await service.page(host, '/', shown)).text, '<h1>one</h1>');
  // Of its own host alone.
  assert.equal((await service.page(`${project}.localhost`, '/', shown)).status, 503);
  await service.stopApi();
  assert.equal((await service.page(host, '/', shown)).text, '<h1>one</h1>');
  const stranger = await until('others are told', async () => {
    const page = await service.page(host, '/', opening);
    return page.status === 503 && page;
  });
  assert.match(stranger.text, /the service says, and that is not reached now/);
  assert.equal(stranger.headers['retry-after'], '10');
  late = 3_600_001;
  assert.equal((await service.page(host, '/', shown)).status, 401);
});

test('a lent link opens what the map lends until it is closed or made anew; artifacts are as closed as what wanted them', async (t) => {
  const { service, host, artifact } = await begun(t);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const refused = await vaquero('lend', project, 'try-quay');
  assert.match(refused.err, /The map lets try-quay admit members alone/);
  assert.match((await vaquero('lend', project, 'staging')).err, /admits anyone/);
  await changeMap(service, project, (text) =>
    text.replace('each: {branch: "try/*"}', 'each: {branch: "try/*"}, admits: link'),
  );
  const lent = async () => {
    const { out } = await vaquero('lend', project, 'try-quay');
    const { pathname, search } = new URL(out.trim());
    const opened = await service.page(host, `${pathname}${search}`, opening);
    return { opened, cookie: opened.headers['set-cookie']?.[0]?.split(';')[0] ?? '' };
  };
  const first = await lent();
  assert.deepEqual([first.opened.status, first.opened.headers.location], [303, '/']);
  const see = async (cookie: string) =>
    (await service.page(host, '/', { ...opening, cookie })).status;
  assert.equal(await see(first.cookie), 200);
  assert.equal(await see('vaquero-link=x'), 303);
  const second = await lent();
  assert.deepEqual([await see(first.cookie), await see(second.cookie)], [303, 200]);
  await vaquero('lend', project, 'try-quay', '--close');
  assert.equal(await see(second.cookie), 303);

  // By number and by digest: staging's build is for everybody, the preview's for members.
  const base = `artifacts.localhost:${service.edgePort}`;
  const ofBuild = (build: number) => `build-${build}.${project}.${base}`;
  const byDigest = `${hostLabelOf(artifact ?? assert.fail('nothing is served'))}.${base}`;
  const statuses = await Promise.all(
    [ofBuild(1), ofBuild(2), byDigest].map(async (one) => (await service.page(one)).status),
  );
  assert.deepEqual(statuses, [200, 401, 401]);
  assert.match((await memberPage(service, ofBuild(2))).text, /quay/);
  assert.match((await memberPage(service, byDigest)).text, /quay/);
  const other = await askEdge(service.edgePort, byDigest, '/', opening);
  assert.equal(other.status, 303);

  // Opened by the map, whoever was on the way goes on.
  await changeMap(service, project, (text) => text.replace('admits: link', 'admits: anyone'));
  await until('the edge knows', async () => {
    const back = await service.page(host, '/.vaquero/enter?word=x&to=/a.css', opening);
    return back.status === 303 && back.headers.location === '/a.css';
  });
  assert.equal((await service.page(host)).status, 200);

  await changeMap(service, project, (text) => text.replace('admits: anyone', 'admits: members'));
  // An edge of the version before would answer everybody: it is told nothing of what is closed.
  const told = async (more: Record<string, string>) => {
    const stop = new AbortController();
    const query = new URLSearchParams({
      instance: '019aabce-0000-7000-8000-000000000001',
      revision: '0',
      formats: '1,2',
      ...more,
    });
    const reply = await fetch(`${service.address}/role/orders?${query}`, {
      headers: {
        authorization: `Bearer ${service.environment.VAQUERO_EDGE_TOKEN}`,
        'vaquero-protocol': '2',
      },
      signal: stop.signal,
    });
    let text = '';
    for await (const bytes of reply.body ?? []) {
      text += Buffer.from(bytes).toString();
      if (text.includes('\n')) break;
    }
    stop.abort();
    const { table } = JSON.parse(text.split('\n')[0] ?? '') as { table: RoutingTable };
    const entry = Object.entries(table.hosts).find(([name]) => name.startsWith('try-quay.'))?.[1];
    return entry?.targets.length;
  };
  assert.deepEqual([await told({ closed: 'known' }), await told({})], [1, 0]);
});
