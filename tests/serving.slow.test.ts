import assert from 'node:assert/strict';
import { once } from 'node:events';
import {
  chmodSync,
  readdirSync,
  readFileSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import test from 'node:test';
import { brotliDecompressSync, gunzipSync } from 'node:zlib';
import type { Instant } from '@vaquero/core';
import { until } from './support/place.ts';
import { startTestService } from './support/service.ts';
import { recipeOf } from './support/working-copy.ts';

const long = 'the tide comes in and the tide goes out. '.repeat(60);
const site = (more: string): Record<string, string> => ({
  'vaquero.yaml': recipeOf(
    `mkdir -p out/deep out/assets; printf '%s' '<h1>front</h1>${long}' > out/index.html; printf deep > out/deep/index.html; printf lost > out/404.html; ${more}`,
  ).replace('site: out', 'site: out\n  missing: 404.html'),
});

test('pages come with the right type, validators and names, and are revalidated', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const build = await made.push(
    'Pages',
    site(
      'printf x > out/assets/a.css; printf x > out/assets/b.js; printf x > out/c.unknown; printf "{}" > out/d.webmanifest',
    ),
  );
  const host = `staging.timetable.localhost:${service.edgePort}`;
  const front = await service.page(host);
  assert.equal(front.status, 200);
  assert.deepEqual(
    [
      'content-type',
      'cache-control',
      'x-content-type-options',
      'vaquero-project',
      'vaquero-environment',
      'vaquero-deploy',
      'vaquero-commit',
      'vaquero-artifact',
      'x-robots-tag',
    ].map((name) => front.headers[name]),
    [
      'text/html; charset=utf-8',
      'no-cache',
      'nosniff',
      'timetable',
      'staging',
      '1',
      build.commit.id,
      build.artifact?.digest,
      'noindex',
    ],
  );
  assert.equal(
    (await service.page(host, '/', { 'if-none-match': String(front.headers.etag) })).status,
    304,
  );
  assert.equal(
    (await service.page(host, '/', { 'if-none-match': `W/${front.headers.etag}, "x"` })).status,
    304,
  );
  assert.equal((await service.page(host, '/', { 'if-none-match': '"x"' })).status, 200);
  const types = await Promise.all(
    ['/assets/a.css', '/assets/b.js', '/c.unknown', '/d.webmanifest'].map(
      async (path) => (await service.page(host, path)).headers['content-type'],
    ),
  );
  assert.deepEqual(types, [
    'text/css; charset=utf-8',
    'text/javascript; charset=utf-8',
    'application/octet-stream',
    'application/manifest+json; charset=utf-8',
  ]);

  const head = await service.page(host, '/', {}, 'HEAD');
  assert.deepEqual(
    [head.status, head.text, head.headers['content-length']],
    [200, '', String(front.body.length)],
  );
  const post = await service.page(host, '/', {}, 'POST');
  assert.deepEqual([post.status, post.headers.allow], [405, 'GET, HEAD, OPTIONS']);
  assert.deepEqual(
    [
      (await service.page(host, '/deep')).headers.location,
      (await service.page(host, '/deep?a=1')).headers.location,
    ],
    ['/deep/', '/deep/?a=1'],
  );
  assert.equal((await service.page(host, '/deep/')).text, 'deep');
});

test('a miss is a 404 with the site’s own page, a folder is never listed, and no path leaves the artifact', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Pages', site('printf x > out/assets/a.css'));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  for (const path of [
    '/nowhere',
    '/assets/',
    '/..%2f..%2fetc/passwd',
    '/%2e%2e/%2e%2e/etc/passwd',
    '/deep/../../../etc/passwd',
    '/..\\..\\etc\\passwd',
    '//etc/passwd',
    '/.git/config',
    '/vaquero.yaml',
  ]) {
    const page = await service.page(host, path);
    assert.deepEqual([page.status, page.text], [404, 'lost'], path);
  }
  assert.equal((await service.page(host, '/%zz')).status, 400);
  assert.equal((await service.page(host, '/%00')).status, 400);
  const unknown = await service.page('nobody.localhost');
  assert.equal(unknown.status, 404);
  assert.match(unknown.text, /No site has this name/);
  assert.doesNotMatch(
    (await service.page('<script>alert(1)</script>.localhost')).text,
    /<script>alert/,
  );
  // A request without any Host is answered as unknown and does no harm.
  const raw = await new Promise<string>((resolve, reject) => {
    const socket = connect(service.edgePort, '127.0.0.1', () =>
      socket.end('GET / HTTP/1.0\r\n\r\n'),
    );
    let text = '';
    socket.on('data', (bytes) => {
      text += bytes.toString();
    });
    socket.on('end', () => resolve(text)).on('error', reject);
  });
  assert.match(raw, /^HTTP\/1\.1 404/);
});

test('text is compressed aside and the same bytes come out of every encoding', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('Pages', site(''));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  const plain = await service.page(host);
  const encoded = (encoding: string) =>
    until(`${encoding} is made`, async () => {
      const page = await service.page(host, '/', { 'accept-encoding': encoding });
      return page.headers['content-encoding'] === encoding.split(';')[0] && page;
    });
  const brotli = await encoded('br');
  assert.ok(brotli.body.length < plain.body.length / 2);
  assert.deepEqual(brotliDecompressSync(brotli.body), plain.body);
  assert.deepEqual(gunzipSync((await encoded('gzip')).body), plain.body);
  assert.notEqual(brotli.headers.etag, plain.headers.etag);
  assert.equal(brotli.headers.vary, 'Accept-Encoding');
  assert.equal(
    (await service.page(host, '/', { 'accept-encoding': 'br;q=0, gzip;q=0' })).headers[
      'content-encoding'
    ],
    undefined,
  );
});

test('for an hour open pages keep their assets; pages themselves never fall back', async (t) => {
  let ahead = 0;
  const service = await startTestService(t, { clock: () => (Date.now() + ahead) as Instant });
  const made = await service.project('timetable');
  const first = await made.push(
    'One',
    site('printf one > out/assets/one.js; printf old > out/old.html'),
  );
  await made.push('Two', site('printf two > out/assets/two.js'));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  const kept = await service.page(host, '/assets/one.js');
  assert.deepEqual(
    [kept.status, kept.text, kept.headers['vaquero-served-from']],
    [200, 'one', first.artifact?.digest],
  );
  assert.equal((await service.page(host, '/old.html')).status, 404);
  assert.equal(
    (await service.page(host, '/assets/two.js')).headers['vaquero-served-from'],
    undefined,
  );
  ahead = 3_601_000;
  assert.equal((await service.page(host, '/assets/one.js')).status, 404);
});

test('a damaged blob is never served', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', site('printf "asset of the harbour" > out/assets/one.js'));
  const folder = join(service.state, 'store', 'sha256');
  for (const first of readdirSync(folder)) {
    for (const name of readdirSync(join(folder, first))) {
      const path = join(folder, first, name);
      if (readFileSync(path, 'utf8') !== 'asset of the harbour') continue;
      chmodSync(path, 0o644);
      writeFileSync(path, 'asset of the HARBOUR');
    }
  }
  const page = await service.page(
    `staging.timetable.localhost:${service.edgePort}`,
    '/assets/one.js',
  );
  assert.equal(page.status, 500);
  assert.match(page.text, /damaged, and other bytes are not sent/);

  // Nor does a damaged list of files end the edge that begins with it.
  const { serves } = await service.environmentOf('timetable', 'staging');
  const list = join(folder, serves?.artifact.slice(0, 2) ?? '', serves?.artifact ?? '');
  chmodSync(list, 0o644);
  writeFileSync(list, '{}');
  await service.stopEdge();
  await service.startEdge();
  for (const path of ['/', '/assets/one.js', '/'])
    assert.equal(
      (await service.page(`staging.timetable.localhost:${service.edgePort}`, path)).status,
      500,
    );
  assert.equal((await service.page('nobody.localhost')).status, 404);
});

test('an edge starts from its copy and keeps serving with the api and the database away', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', site(''));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  await service.stopRunner();
  await service.stopApi();
  assert.equal((await service.page(host)).status, 200);
  await service.stopEdge();
  await service.startEdge();
  const page = await service.page(host);
  assert.deepEqual([page.status, page.headers['vaquero-deploy']], [200, '1']);
});

test('a large file is not held in memory for each of those who read it slowly, and comes whole', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const bytes = 64 << 20;
  const build = await made.push('A film', site(`head -c ${bytes} /dev/zero > out/film.bin`));
  assert.equal(build.state, 'passed');
  const host = `staging.timetable.localhost:${service.edgePort}`;
  const before = process.memoryUsage().rss;
  const readers = await Promise.all(
    Array.from({ length: 8 }, async () => {
      const socket = connect(service.edgePort, '127.0.0.1');
      t.after(() => socket.destroy());
      socket.write(`GET /film.bin HTTP/1.1\r\nHost: ${host}\r\n\r\n`);
      // They read the head and no further: what the edge holds for them is what waits.
      const [head] = (await once(socket, 'data')) as [Buffer];
      socket.pause();
      return { socket, head };
    }),
  );
  assert.ok(process.memoryUsage().rss - before < 3 * bytes, 'each reader has a copy of its own');
  for (const { head } of readers)
    assert.match(head.toString('latin1', 0, 1000), /Content-Length: 67108864/);
  const whole = await service.page(host, '/film.bin');
  assert.deepEqual(
    [whole.status, whole.body.length, whole.body.every((byte) => byte === 0)],
    [200, bytes, true],
  );
  const head = await service.page(host, '/film.bin', {}, 'HEAD');
  assert.deepEqual(
    [head.status, head.headers['content-length'], head.body.length],
    [200, String(bytes), 0],
  );

  // A disk that gives less than was verified must not make the next answer pass for the rest of this one.
  const [first] = readers;
  assert.ok(first);
  const store = join(service.state, 'store', 'sha256');
  const film = readdirSync(store, { recursive: true, encoding: 'utf8' })
    .map((name) => join(store, name))
    .find((path) => statSync(path).size === bytes);
  truncateSync(film ?? assert.fail('the film is not in the store'), bytes / 2);
  let sawNext = false;
  first.socket.on('data', (chunk: Buffer) => {
    sawNext ||= chunk.includes('<h1>front');
  });
  first.socket.on('error', () => undefined); // Cut is how it is to end.
  first.socket.write(`GET /index.html HTTP/1.1\r\nHost: ${host}\r\n\r\n`);
  first.socket.resume();
  await once(first.socket, 'close');
  assert.equal(sawNext, false);
});
