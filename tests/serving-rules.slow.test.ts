import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { statSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { environmentRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { sql } from 'drizzle-orm';
import { execa } from 'execa';
import { stopsFor } from './support/maps.ts';
import { temporaryFolder } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';

/** A recipe whose step writes `out`, with more said under serve. */
function recipe(shell: string, serve = ''): Record<string, string> {
  return {
    'vaquero.yaml': `steps:\n  pages:\n    run: |\n      mkdir -p out/assets\n      printf '<h1>Desk</h1>' > out/index.html\n${shell
      .split('\n')
      .map((line) => `      ${line}`)
      .join('\n')}\nserve:\n  site: out\n${serve}`,
  };
}

const stagingOf = (service: TestService) => `staging.timetable.localhost:${service.edgePort}`;

test('pieces of a file are cut as they are asked for, and only of the file that is known', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  await push(
    'Tides',
    recipe("seq -w 0 9999 | tr -d '\\n' > out/tides.bin; printf '' > out/empty.bin"),
  );
  const host = stagingOf(service);
  const whole = await service.page(host, '/tides.bin');
  assert.deepEqual([whole.body.length, whole.headers['accept-ranges']], [40_000, 'bytes']);
  const etag = String(whole.headers.etag);
  const cut = async (range: string, more: Record<string, string> = {}) => {
    const page = await service.page(host, '/tides.bin', { range, ...more });
    return [page.status, page.headers['content-range'], page.text.slice(0, 8), page.body.length];
  };
  assert.deepEqual(await cut('bytes=0-3'), [206, 'bytes 0-3/40000', '0000', 4]);
  assert.deepEqual(await cut('bytes=39996-'), [206, 'bytes 39996-39999/40000', '9999', 4]);
  assert.deepEqual(await cut('bytes=-8'), [206, 'bytes 39992-39999/40000', '99989999', 8]);
  assert.deepEqual(await cut('bytes=0-99999'), [206, 'bytes 0-39999/40000', '00000001', 40_000]);
  assert.deepEqual(await cut('bytes=40000-'), [416, 'bytes */40000', '', 0]);
  for (const odd of ['bytes=', 'bytes=b-a', 'lines=0-3', 'bytes=3-1'])
    assert.ok([200, 416].includes(Number((await cut(odd))[0])), odd);
  // Pieces that touch are one; more than a few are all of it.
  assert.deepEqual(await cut('bytes=0-3,4-7'), [206, 'bytes 0-7/40000', '00000001', 8]);
  const many = Array.from({ length: 40 }, (_, n) => `${n * 100}-${n * 100 + 1}`).join(',');
  assert.equal((await cut(`bytes=${many}`))[0], 200);
  const several = await service.page(host, '/tides.bin', { range: 'bytes=0-3,100-103' });
  const boundary = /boundary=(.+)$/.exec(String(several.headers['content-type']))?.[1];
  assert.equal(
    several.text,
    [
      `--${boundary}`,
      'Content-Type: application/octet-stream',
      'Content-Range: bytes 0-3/40000',
      '',
      '0000',
      `--${boundary}`,
      'Content-Type: application/octet-stream',
      'Content-Range: bytes 100-103/40000',
      '',
      '0025',
      `--${boundary}--`,
      '',
    ].join('\r\n'),
  );
  assert.equal(Number(several.headers['content-length']), several.body.length);
  // Of other bytes than those that are known no piece is sent.
  assert.equal((await cut('bytes=0-3', { 'if-range': etag }))[0], 206);
  assert.equal((await cut('bytes=0-3', { 'if-range': '"other"' }))[0], 200);
  assert.equal((await cut('bytes=0-3', { 'if-range': `W/${etag}` }))[0], 200);
  assert.equal((await cut('bytes=0-3', { 'if-none-match': etag }))[0], 304);
  assert.equal((await cut('bytes=0-3', { 'if-match': '"other"' }))[0], 412);
  assert.equal((await cut('bytes=0-3', { 'if-match': `"x", ${etag}` }))[0], 206);
  const empty = await service.page(host, '/empty.bin', { range: 'bytes=0-' });
  assert.deepEqual([empty.status, empty.headers['content-range']], [416, 'bytes */0']);
  const asked = await service.page(host, '/tides.bin', { range: 'bytes=0-3' }, 'HEAD');
  assert.deepEqual(
    [asked.status, asked.headers['content-length'], asked.body.length],
    [200, '40000', 0],
  );
  const options = await service.page(host, '/tides.bin', {}, 'OPTIONS');
  assert.deepEqual([options.status, options.headers.allow], [204, 'GET, HEAD, OPTIONS']);
});

test('a download of 300 MB that broke off is resumed, and its bytes are the right ones', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  const build = await push(
    'Charts',
    recipe('yes "Lune Quay to Orrin, every hour" | head -c 300000000 > out/charts.pmtiles'),
  );
  assert.equal(build.state, 'passed', JSON.stringify(build.failure));
  const file = join(temporaryFolder(t), 'charts.pmtiles');
  const host = stagingOf(service);
  const download = (...more: string[]) =>
    execa('curl', [
      '--silent',
      '--fail',
      '--output',
      file,
      '--header',
      `Host: ${host}`,
      ...more,
      `http://127.0.0.1:${service.edgePort}/charts.pmtiles`,
    ]);
  await download('--range', '0-99999999');
  assert.equal(statSync(file).size, 100_000_000);
  truncateSync(file, 77_777_777);
  await download('--continue-at', '-');
  assert.equal(statSync(file).size, 300_000_000);
  const sum = async (path: string) => (await execa('sha256sum', [path])).stdout.split(' ')[0];
  const line = 'Lune Quay to Orrin, every hour\n';
  const made = createHash('sha256');
  const block = Buffer.from(line.repeat(100_000));
  let left = 300_000_000;
  for (; left >= block.length; left -= block.length) made.update(block);
  made.update(block.subarray(0, left));
  assert.equal(await sum(file), made.digest('hex'));
});

test('fields of a recipe stand above what is only usual, and below what Vaquero says', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  await push(
    'A strict desk',
    recipe(
      "printf 'a' > out/assets/app-1f.js; printf '<h1>Lost</h1>' > out/404.html; printf '[ ]' > out/association",
      `  missing: 404.html
  moved: {/old: /}
  immutable: ["/assets/**"]
  headers:
    "/**":
      Content-Security-Policy: default-src 'self'
      X-Frame-Options: DENY
      X-Robots-Tag: all
    "/assets/*": {Access-Control-Allow-Origin: "*", X-Frame-Options: SAMEORIGIN, Vary: Origin, Cache-Control: no-store}
    "/association": {Content-Type: application/json}
`,
    ),
  );
  const host = stagingOf(service);
  const fields = async (path: string, ...names: string[]) => {
    const { headers } = await service.page(host, path);
    return names.map((name) => headers[name]);
  };
  const strict = "default-src 'self'";
  assert.deepEqual(
    await fields(
      '/',
      'content-security-policy',
      'x-frame-options',
      'cache-control',
      'x-robots-tag',
    ),
    [strict, 'DENY', 'no-cache', 'noindex'],
  );
  // A page of staging is not to be found by search engines, whatever a commit says.
  assert.deepEqual(
    await fields(
      '/assets/app-1f.js',
      'x-frame-options',
      'access-control-allow-origin',
      'cache-control',
      'vary',
    ),
    ['SAMEORIGIN', '*', 'public, max-age=31536000, immutable', 'Accept-Encoding, Origin'],
  );
  assert.deepEqual(await fields('/association', 'content-type', 'x-content-type-options'), [
    'application/json',
    'nosniff',
  ]);
  // Of several pieces each has the type that is said, and all of them one that frames them.
  const pieces = await service.page(host, '/association', { range: 'bytes=0-0,2-2' });
  assert.match(String(pieces.headers['content-type']), /^multipart\/byteranges/);
  assert.equal(pieces.text.match(/Content-Type: application\/json/g)?.length, 2);
  assert.deepEqual(await fields('/nowhere', 'content-security-policy'), [strict]);
  assert.deepEqual(await fields('/old', 'location', 'content-security-policy'), ['/', strict]);
  // What names the deploy is nobody's to change.
  assert.deepEqual(await fields('/', 'vaquero-project', 'vaquero-environment'), [
    'timetable',
    'staging',
  ]);
});

test('what is said never to change and did is refused with its path; a way back is open', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  const lasting = '  immutable: ["/assets/**"]\n';
  const one = await push(
    'One',
    recipe('printf one > out/assets/app.js; printf 1 > out/page.html', lasting),
  );
  assert.equal(one.state, 'passed');
  const two = await push('Two', recipe('printf two > out/assets/app.js', lasting));
  assert.equal(two.state, 'failed');
  assert.match(two.failure?.what ?? '', /assets\/app\.js.*is said never to change/);
  assert.equal((await service.page(stagingOf(service), '/assets/app.js')).text, 'one');
  // By another name it goes live, and so it does when it is no longer said to last.
  const named = await push('Named', recipe('printf two > out/assets/app-2.js', lasting));
  assert.equal(named.state, 'passed');
  await service.promote('timetable');
  const plain = await push('Plain', recipe('printf three > out/assets/app-2.js'));
  assert.equal(plain.state, 'passed');
  const staging = await service.environmentOf('timetable', 'staging');
  // Back to the first, whose file the others replaced: what browsers keep they got from there.
  const back = await service.operator.call(environmentRoutes.rollBackRoute, {
    params: { project: 'timetable', environment: 'staging' },
    body: {
      to: { build: one.number },
      seen: { generation: staging.generation, artifact: staging.serves?.artifact ?? null },
      reason: 'The desk needs the first',
    },
  });
  assert.equal(back.deploy.build, one.number);
  // A month later nobody is taken to hold it any more.
  await service.operator.call(environmentRoutes.liftHoldRoute, {
    params: { project: 'timetable', environment: 'staging' },
    body: { generation: back.generation },
  });
  const aMonthOn = () =>
    service.deps.db.execute(sql`UPDATE deploys SET committed_at = committed_at - 31 * 86400000`);
  await push('Away', recipe(''));
  await aMonthOn();
  const later = await push('Later', recipe('printf four > out/assets/app.js', lasting));
  assert.equal(later.state, 'passed', JSON.stringify(later.failure));
  assert.equal((await service.page(stagingOf(service), '/assets/app.js')).text, 'four');
  // Production has the other name still: a promotion that changes it is refused, and nothing moves.
  const clash = await push('Clash', recipe('printf five > out/assets/app-2.js', lasting));
  assert.equal(clash.state, 'passed');
  const refusal = await refusalOf(service.promote('timetable'));
  assert.deepEqual(
    [refusal.code, 'address' in refusal && refusal.address],
    ['immutable-changed', '/assets/app-2.js'],
  );
});

test('pages hold together over all moves of an hour, but for what a secret was found in', async (t) => {
  let ahead = 0;
  const service = await startTestService(t, { clock: () => (Date.now() + ahead) as Instant });
  const { push } = await service.project('timetable');
  const host = stagingOf(service);
  const asset = async (name: string) => (await service.page(host, `/assets/${name}.js`)).status;
  for (const name of ['one', 'two', 'three']) {
    await push(name, recipe(`printf ${name} > out/assets/${name}.js`));
    ahead += 20 * 60_000;
  }
  assert.deepEqual([await asset('one'), await asset('two'), await asset('three')], [200, 200, 200]);
  await push('four', recipe('printf four > out/assets/four.js'));
  // By the table of another start, read anew, as well.
  await service.stopEdge();
  await service.startEdge();
  assert.deepEqual([await asset('one'), await asset('two'), await asset('three')], [200, 200, 200]);
  ahead += 25 * 60_000;
  assert.deepEqual([await asset('one'), await asset('two'), await asset('three')], [404, 200, 200]);

  // A key went live, since the project let it: what takes it out takes all of it out.
  await stopsFor(service, 'timetable', ['lfs-pointer']);
  const key = `AKIA${'Q7'.repeat(8)}`;
  const leak = await push('A key', recipe(`printf 'k="${key}"' > out/assets/key.js`));
  assert.equal(leak.state, 'passed');
  assert.equal(await asset('key'), 200);
  await push('Without it', recipe(''));
  assert.deepEqual([await asset('key'), await asset('four')], [404, 200]);
  await push('And on', recipe('printf six > out/assets/six.js'));
  assert.deepEqual([await asset('key'), await asset('four')], [404, 200]);
});

test('while environments move, body, fields and name of each answer belong to one deploy', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  const of = (name: string) =>
    recipe(
      `printf '<h1>${name}</h1>' > out/index.html; printf '<b>${name}</b>' > out/app.html`,
      `  moved: {/go: /to-${name}}\n  instead: {"/app/*": /app}\n  headers: {"/**": {X-Deploy: ${name}}}\n`,
    );
  const [one, two] = [await push('One', of('one')), await push('Two', of('two'))];
  const names = new Map([one, two].map((build) => [build.artifact?.digest, build.commit.subject]));
  const host = stagingOf(service);
  let isOver = false;
  let answers = 0;
  const load = Array.from({ length: 8 }, async (_, n) => {
    const path = ['/', '/app/deep/link', '/go'][n % 3] ?? '/';
    while (!isOver) {
      const { headers, text, status } = await service.page(host, path);
      const name = names.get(String(headers['vaquero-artifact']) as never)?.toLowerCase();
      assert.ok(name !== undefined);
      assert.equal(headers['x-deploy'], name);
      if (status === 308) assert.equal(headers.location, `/to-${name}`);
      else assert.ok(text.includes(`>${name}<`), text);
      answers += 1;
    }
  });
  const moves = async () => {
    for (let n = 0; n < 12; n += 1) {
      const now = await service.environmentOf('timetable', 'staging');
      await service.operator.call(environmentRoutes.rollBackRoute, {
        params: { project: 'timetable', environment: 'staging' },
        body: {
          to: { build: n % 2 === 0 ? one.number : two.number },
          seen: { generation: now.generation, artifact: now.serves?.artifact ?? null },
          reason: 'To and fro',
        },
      });
    }
    isOver = true;
  };
  await Promise.all([moves(), ...load]);
  assert.ok(answers > 50, String(answers));
});

test('an edge that does not read an artifact’s manifest is named before anything moves', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  await push('One', recipe(''));
  // An edge of an earlier version, which holds its stream to another api process: it says nothing of forms.
  await service.deps.db.execute(sql`UPDATE machines SET formats = '1' WHERE role = 'edge'`);
  const refusal = await refusalOf(service.promote('timetable'));
  assert.equal(refusal.code, 'edge-cannot-prepare');
  assert.match(
    'why' in refusal ? String(refusal.why) : '',
    /manifest has form 2, and this edge reads 1/,
  );
  assert.equal((await service.environmentOf('timetable', 'production')).serves, null);
  // One that starts says what it reads.
  await service.stopEdge();
  await service.startEdge();
  await service.promote('timetable');
  assert.equal((await service.environmentOf('timetable', 'production')).serves?.build, 1);
});
