import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import {
  chmodSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { makeClient } from '@vaquero/contracts';
import { type Digest, encodeManifest, manifestOf, type SitePath } from '@vaquero/core';
import { type Bringer, inTurn, makeBringer } from './bring-blobs.ts';
import { blobPath } from './read-blob.ts';

const digestOf = (text: string): Digest =>
  createHash('sha256').update(text).digest('hex') as Digest;

/** A store on another machine, as far as it can be seen from here: an HTTP server with blobs. */
async function elsewhere(t: TestContext) {
  const blobs = new Map<string, string>();
  const asked: string[] = [];
  const server = createServer((req, res) => {
    const digest = (req.url ?? '').split('/').at(-1) ?? '';
    asked.push(digest);
    const text = blobs.get(digest);
    res.writeHead(text === undefined ? 404 : 200).end(text);
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  t.after(() => {
    server.closeAllConnections();
    server.close();
  });
  const store = mkdtempSync(join(tmpdir(), 'vaquero-brought-'));
  t.after(() => rmSync(store, { recursive: true, force: true }));
  const address = server.address();
  const port = typeof address === 'object' ? address?.port : 0;
  const client = makeClient({ address: `http://127.0.0.1:${port}` });
  const bringer: Bringer = makeBringer(client, store, new AbortController().signal);
  const keep = (text: string): Digest => {
    blobs.set(digestOf(text), text);
    return digestOf(text);
  };
  const site = (files: Readonly<Record<string, string>>): Digest => {
    const list = Object.entries(files).map(([path, text]) => ({
      path: path as SitePath,
      digest: keep(text),
      sizeBytes: Buffer.byteLength(text),
      mode: 0o644 as const,
    }));
    return keep(encodeManifest(manifestOf(list, { entry: 'index.html', missing: null })));
  };
  const here = (text: string): boolean => existsSync(blobPath(store, digestOf(text)));
  return { blobs, asked, store, bringer, site, here };
}

test('an artifact is brought whole, each file once, and the next takes only what is new', async (t) => {
  const { asked, bringer, site, here } = await elsewhere(t);
  const one = site({ 'index.html': 'front', 'a.css': 'style', 'b.css': 'style' });
  await Promise.all([bringer.bring(one), bringer.bring(one)]);
  assert.deepEqual([here('front'), here('style')], [true, true]);
  assert.equal(asked.length, 3, 'the manifest and two contents');
  await bringer.bring(site({ 'index.html': 'front 2', 'a.css': 'style' }));
  assert.equal(asked.length, 5);
});

test('bytes that are not those of their name are not kept, and are asked for again', async (t) => {
  const { blobs, store, bringer, site, here } = await elsewhere(t);
  const one = site({ 'index.html': 'front' });
  blobs.set(digestOf('front'), 'FRONT');
  await assert.rejects(bringer.bring(one), /came with other bytes than its name says/);
  assert.equal(here('front'), false);
  const folder = join(store, 'sha256', digestOf('front').slice(0, 2));
  assert.deepEqual(readdirSync(folder), []);
  blobs.delete(digestOf('front'));
  await assert.rejects(bringer.bring(one), /was answered with HTTP 404/);
  blobs.set(digestOf('front'), 'front');
  await bringer.bring(one);
  assert.equal(here('front'), true);
});

test('what the disk spoiled is fetched anew, the manifest too, and nothing else is', async (t) => {
  const { asked, store, bringer, site, here } = await elsewhere(t);
  const one = site({ 'index.html': 'front', 'a.css': 'style' });
  await bringer.bring(one);
  for (const digest of [one, digestOf('front')]) {
    chmodSync(blobPath(store, digest), 0o644);
    writeFileSync(blobPath(store, digest), 'spoilt');
  }
  asked.length = 0;
  await bringer.mend(one);
  assert.deepEqual(asked.sort(), [one, digestOf('front')].sort());
  assert.equal(readFileSync(blobPath(store, digestOf('front')), 'utf8'), 'front');
  rmSync(blobPath(store, digestOf('style')));
  await bringer.mend(one);
  assert.equal(here('style'), true);
  // An edge that starts again with a spoilt list is not kept from what it lists.
  chmodSync(blobPath(store, one), 0o644);
  writeFileSync(blobPath(store, one), '{}');
  await bringer.sweep(new Set(), 60_000);
  await bringer.bring(one);
  assert.match(readFileSync(blobPath(store, one), 'utf8'), /index\.html/);
});

test('visitors set one artifact in motion at a time, and not everything they can guess', async () => {
  const under: string[] = [];
  const ended: (() => void)[] = [];
  let most = 0;
  const bring = inTurn(async (artifact) => {
    under.push(artifact);
    most = Math.max(most, under.length);
    await new Promise<void>((resolve) => ended.push(resolve));
    under.pop();
  });
  const digests = Array.from({ length: 21 }, (_, place) => String(place) as Digest);
  const asked = digests.slice(0, 20).map((digest) => bring(digest));
  await assert.rejects(bring(digests[20] ?? ('x' as Digest)), /too many artifacts are asked for/);
  for (let count = 0; count < 20; count += 1) {
    while (ended.length <= count) await new Promise((resolve) => setImmediate(resolve));
    ended[count]?.();
  }
  await Promise.all(asked);
  assert.equal(most, 1);
});

test('what nothing serves is removed when it is old; what was just relied on stays', async (t) => {
  const { store, bringer, site, here } = await elsewhere(t);
  const [one, two] = [
    site({ 'index.html': 'one', 'same.css': 'same' }),
    site({ 'index.html': 'two', 'same.css': 'same' }),
  ];
  await bringer.bring(one);
  await bringer.bring(two);
  assert.equal(await bringer.sweep(new Set([two]), 60_000), 0, 'all of it is new');
  const old = new Date(Date.now() - 3_600_000);
  for (const text of ['one', 'two', 'same']) utimesSync(blobPath(store, digestOf(text)), old, old);
  assert.equal(await bringer.sweep(new Set([two]), 60_000), 1);
  assert.deepEqual([here('one'), here('two'), here('same')], [false, true, true]);
  // A rollback comes: it is fetched again, and what of it is here counts as new.
  await bringer.bring(one);
  assert.equal(await bringer.sweep(new Set([two]), 60_000), 0);
  assert.equal(here('one'), true);
});
