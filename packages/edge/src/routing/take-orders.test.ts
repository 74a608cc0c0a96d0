import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { EdgeOrder, RoutingTable } from '@vaquero/contracts';
import { type Digest, encodeManifest, manifestOf, type SitePath } from '@vaquero/core';
import { pino } from 'pino';
import type { Bringer } from '../blobs/bring-blobs.ts';
import { openLiveTable } from './live-table.ts';
import { openTableCopy } from './table-copy.ts';
import { makeOrders, TableUnknown } from './take-orders.ts';
import { makeTeller } from './tell-api.ts';

const log = pino({ level: 'silent' });

/** An edge without its socket: what it tells the api is heard by a server that stands in its place. */
async function place(t: TestContext, bringer: Bringer | null) {
  const told: { readonly path: string; readonly body: Record<string, unknown> }[] = [];
  const api = createServer(async (req, res) => {
    const chunks: Buffer[] = [];
    for await (const chunk of req as AsyncIterable<Buffer>) chunks.push(chunk);
    told.push({ path: req.url ?? '', body: JSON.parse(Buffer.concat(chunks).toString()) });
    res.writeHead(200, { 'content-type': 'application/json' }).end('null');
  });
  api.listen(0, '127.0.0.1');
  await once(api, 'listening');
  t.after(() => {
    api.closeAllConnections();
    api.close();
  });
  const root = mkdtempSync(join(tmpdir(), 'vaquero-orders-'));
  t.after(() => rmSync(root, { recursive: true, force: true }));
  const [store, directory] = [join(root, 'store'), join(root, 'edge')];
  mkdirSync(directory);
  const put = (text: string): Digest => {
    const digest = createHash('sha256').update(text).digest('hex') as Digest;
    mkdirSync(join(store, 'sha256', digest.slice(0, 2)), { recursive: true });
    writeFileSync(join(store, 'sha256', digest.slice(0, 2), digest), text);
    return digest;
  };
  const site = (text: string): Digest => {
    const file = {
      path: 'index.html' as SitePath,
      digest: put(text),
      sizeBytes: text.length,
      mode: 0o644 as const,
    };
    return put(encodeManifest(manifestOf([file], { entry: 'index.html', missing: null })));
  };
  const address = api.address();
  const stop = new AbortController();
  t.after(() => stop.abort());
  const teller = makeTeller({
    address: `http://127.0.0.1:${typeof address === 'object' ? address?.port : 0}`,
    headers: {},
  });
  t.after(teller.stop);
  const start = async () => {
    const table = await openLiveTable(store, openTableCopy(directory));
    t.after(table.stop);
    const orders = makeOrders({
      table,
      api: teller,
      instance: 'i',
      bringer,
      askSelf: () => Promise.resolve(table.revision()),
      log,
      signal: stop.signal,
    });
    return { table, orders };
  };
  return { ...(await start()), again: start, told, site };
}

const tableOf = (revision: number, artifact: Digest): RoutingTable => ({
  revision,
  artifactsBase: 'artifacts.localhost:1',
  admission: null,
  ended: {},
  moved: { hosts: {}, projects: {} },
  hosts: {
    'timetable.localhost:1': {
      project: 'timetable',
      environment: 'production',
      targets: [{ artifact, share: 100 }],
      deploy: revision,
      build: revision,
      commit: 'c',
      waitsFor: '',
      previous: null,
      admits: 'anyone',
      link: null,
      marks: false,
      earlier: [],
    },
  },
});

const orderOf = (table: RoutingTable) => ({ order: 'table', table, lookKey: 'k' }) as const;

test('a preparation is answered with what is missing, or with nothing', async (t) => {
  const { orders, told, site } = await place(t, null);
  const good = site('front');
  await orders.take({ order: 'prepare', id: 'p1', artifact: good });
  await orders.take({ order: 'prepare', id: 'p2', artifact: 'f'.repeat(64) as Digest });
  assert.deepEqual(told[0], { path: '/role/answers', body: { id: 'p1', problem: null } });
  assert.match(String(told[1]?.body.problem), /cannot be read/);
});

test('a table is confirmed once it is answered with and on disk; an older one that comes late changes nothing', async (t) => {
  const { orders, table, told, site } = await place(t, null);
  const [one, two] = [site('one'), site('two')];
  await orders.take(orderOf(tableOf(7, two)));
  assert.deepEqual(told, [{ path: '/role/confirmations', body: { instance: 'i', revision: 7 } }]);
  assert.equal(table.onDisk(), 7);
  await orders.take(orderOf(tableOf(6, one)));
  assert.equal(table.place('timetable.localhost:1')?.artifact?.digest, two);
  assert.equal(told.at(-1)?.body.revision, 7);
});

test('a table whose artifact cannot be brought yet waits for it, unless a newer one comes', async (t) => {
  const tried: string[] = [];
  let reachable = new Set<string>();
  let wake: () => void = () => undefined;
  const { orders, table, told, site } = await place(t, {
    bring: async (artifact) => {
      tried.push(artifact);
      wake();
      if (!reachable.has(artifact)) throw new Error('the store does not answer');
    },
    mend: async () => {
      throw new Error('the store does not answer');
    },
    sweep: async () => 0,
  });
  const [one, two] = [site('one'), site('two')];
  const triedFirst = new Promise<void>((resolve) => {
    wake = resolve;
  });
  const older = orders.take(orderOf(tableOf(1, one)));
  await triedFirst;
  assert.equal(table.revision(), -1, 'nothing is in force that is not here');
  reachable = new Set([two]);
  await orders.take(orderOf(tableOf(2, two)));
  assert.equal(table.place('timetable.localhost:1')?.artifact?.digest, two);
  reachable = new Set([one, two]);
  await older;
  assert.equal(table.revision(), 2, 'the older one was overtaken while it waited');
  assert.deepEqual(
    told.map((one) => one.body.revision),
    [2],
  );
  await orders.take({ order: 'prepare', id: 'p', artifact: 'a'.repeat(64) as Digest });
  assert.match(String(told.at(-1)?.body.problem), /the store does not answer/);
  assert.ok(tried.includes(one) && tried.includes(two));
});

test('changes make the next table of the one that came before, and of no other', async (t) => {
  const { orders, table, site } = await place(t, null);
  const [one, two] = [site('one'), site('two')];
  const first = tableOf(7, one);
  const host = 'timetable.localhost:1';
  const staging = 'staging.timetable.localhost:1';
  const entry = first.hosts[host] ?? assert.fail();
  await orders.take(orderOf(first));
  const { hosts: _, ended: __, ...rest } = first;
  const changes = (from: number, revision: number, more: object = {}): EdgeOrder => ({
    order: 'changes',
    from,
    table: { ...rest, revision },
    hosts: { set: {}, gone: [] },
    ended: { set: {}, gone: [] },
    lookKey: 'k',
    ...more,
  });
  const served = (name: string) => table.place(name)?.artifact?.digest;
  await orders.take(
    changes(7, 8, {
      hosts: {
        set: { [staging]: { ...entry, targets: [{ artifact: two, share: 100 }] } },
        gone: [],
      },
    }),
  );
  assert.deepEqual([served(host), served(staging), table.revision()], [one, two, 8]);
  await orders.take(changes(8, 9, { hosts: { set: {}, gone: [host] } }));
  assert.deepEqual([served(host), served(staging), orders.knows()], [undefined, two, 9]);
  assert.equal(table.onDisk(), 9);
  // What it says of another table than the one that came last is not believed: the stream begins anew.
  await assert.rejects(orders.take(changes(7, 10)), TableUnknown);
  assert.deepEqual([table.revision(), orders.knows()], [9, -1], 'what is served stays');
  await assert.rejects(orders.take(changes(9, 10)), TableUnknown, 'it asks for all of it first');
  await orders.take(orderOf(tableOf(11, one)));
  assert.deepEqual([served(host), served(staging), orders.knows()], [one, undefined, 11]);
});

test('an edge that is started again knows the table on its disk, and what changed since is enough', async (t) => {
  const here = await place(t, null);
  const [one, two] = [here.site('one'), here.site('two')];
  const first = tableOf(7, one);
  await here.orders.take(orderOf(first));
  const again = await here.again();
  assert.equal(again.orders.knows(), 7);
  const entry = first.hosts['timetable.localhost:1'] ?? assert.fail();
  const { hosts: _, ended: __, ...rest } = first;
  await again.orders.take({
    order: 'changes',
    from: 7,
    table: { ...rest, revision: 9 },
    hosts: {
      set: { 'staging.localhost:1': { ...entry, targets: [{ artifact: two, share: 100 }] } },
      gone: [],
    },
    ended: { set: {}, gone: [] },
    lookKey: 'k',
  });
  const served = (name: string) => again.table.place(name)?.artifact?.digest;
  assert.deepEqual([served('timetable.localhost:1'), served('staging.localhost:1')], [one, two]);
});
