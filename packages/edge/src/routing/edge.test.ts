import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import type { RoutingTable } from '@vaquero/contracts';
import {
  type Digest,
  encodeManifest,
  hostLabelOf,
  type Instant,
  manifestOf,
  type SitePath,
} from '@vaquero/core';
import { makeMemory } from '../blobs/memory.ts';
import type { NameAnswer } from './artifact-names.ts';
import { makeAskNames, NameUnknown } from './ask-names.ts';
import { openLiveTable } from './live-table.ts';
import { openTableCopy } from './table-copy.ts';

interface Place {
  readonly store: string;
  readonly directory: string;
  readonly put: (text: string) => Digest;
  readonly site: (files: Readonly<Record<string, string>>) => Digest;
}

function place(t: TestContext): Place {
  const root = mkdtempSync(join(tmpdir(), 'vaquero-edge-'));
  t.after(() => rmSync(root, { recursive: true, force: true }));
  const store = join(root, 'store');
  const put = (text: string): Digest => {
    const digest = createHash('sha256').update(text).digest('hex') as Digest;
    mkdirSync(join(store, 'sha256', digest.slice(0, 2)), { recursive: true });
    writeFileSync(join(store, 'sha256', digest.slice(0, 2), digest), text);
    return digest;
  };
  const site = (files: Readonly<Record<string, string>>): Digest => {
    const list = Object.entries(files).map(([path, text]) => ({
      path: path as SitePath,
      digest: put(text),
      sizeBytes: Buffer.byteLength(text),
      mode: 0o644 as const,
    }));
    return put(encodeManifest(manifestOf(list, { entry: 'index.html', missing: null })));
  };
  const directory = join(root, 'edge');
  mkdirSync(directory);
  return { store, directory, put, site };
}

function table(revision: number, artifact: Digest, previous: Digest | null = null): RoutingTable {
  return {
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
        deploy: 3,
        build: 7,
        commit: 'c',
        waitsFor: '',
        previous: null,
        admits: 'anyone',
        link: null,
        marks: false,
        earlier: previous === null ? [] : [{ artifact: previous, until: 10 as Instant }],
      },
    },
  };
}

const made = {
  project: 'timetable',
  build: 7,
  commit: 'c',
  admits: 'anyone',
  outsider: false,
} as const;

/** What the api says of an artifact that build 7 has made. */
function madeBySeven(artifact: Digest, revision = 1): NameAnswer {
  return { revision, named: { artifact, admits: 'anyone', builds: [made] } };
}

test('a table is taken only if it is newer, and the copy on disk is what the next start serves', async (t) => {
  const here = place(t);
  const [one, two] = [here.site({ 'index.html': 'one' }), here.site({ 'index.html': 'two' })];
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  assert.equal(live.revision(), -1);
  const kept = live.adopt(table(5, one));
  assert.deepEqual([live.revision(), live.onDisk()], [5, -1], 'in force before it is on disk');
  await kept;
  assert.equal(live.onDisk(), 5);
  await live.adopt(table(5, two));
  await live.adopt(table(4, two));
  const found = live.place('timetable.localhost:1');
  assert.equal(found?.artifact?.digest, one);
  const again = await openLiveTable(here.store, openTableCopy(here.directory));
  assert.deepEqual(
    [again.revision(), again.place('timetable.localhost:1')?.artifact?.digest],
    [5, one],
  );
});

test('tables that come at once end with the newest', async (t) => {
  const here = place(t);
  const one = here.site({ 'index.html': 'one' });
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  await Promise.all([3, 9, 7, 8, 1].map((revision) => live.adopt(table(revision, one))));
  assert.equal(live.revision(), 9);
  assert.equal((await openLiveTable(here.store, openTableCopy(here.directory))).revision(), 9);
});

test('an artifact answers by its digest and by its build, and by nothing like them', async (t) => {
  const here = place(t);
  const one = here.site({ 'index.html': 'one' });
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  await live.adopt(table(1, one));
  const label = hostLabelOf(one);
  for (const host of [
    `${label}.artifacts.localhost:1`,
    'build-7.timetable.artifacts.localhost:1',
  ]) {
    assert.equal(live.place(host), undefined, 'nobody has asked yet');
    live.learn(live.toBeAsked(host) ?? assert.fail(), madeBySeven(one));
    assert.equal(live.toBeAsked(host), undefined);
    const found = live.place(host);
    assert.ok(found?.kind === 'artifact' && found.artifact.digest === one, host);
  }
  const others = [
    `${label}.localhost:1`,
    `x.${label}.artifacts.localhost:1`,
    `${label.replace(/^./, '7')}.artifacts.localhost:1`,
    'build-8.timetable.artifacts.localhost:1',
    'artifacts.localhost:1',
    '',
    'localhost:1',
  ];
  for (const host of others) assert.equal(live.place(host), undefined, host);
  const asked = others.filter((host) => live.toBeAsked(host) !== undefined);
  assert.deepEqual(asked, [others[2], others[3]], 'of the others two alone can be artifacts');
});

test('what the api said of an artifact holds until a newer table comes; that there is none holds for a moment', async (t) => {
  const here = place(t);
  const one = here.site({ 'index.html': 'one' });
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  t.after(live.stop);
  const host = 'build-7.timetable.artifacts.localhost:1';
  await live.adopt(table(4, one));
  live.learn(live.toBeAsked(host) ?? assert.fail(), madeBySeven(one, 6));
  for (const revision of [5, 6]) {
    await live.adopt(table(revision, one));
    assert.ok(live.place(host)?.kind === 'artifact', `read at 6, it holds with ${revision}`);
  }
  await live.adopt(table(7, one));
  assert.deepEqual([live.place(host), live.gate(host)], [undefined, undefined]);
  const name = live.toBeAsked(host) ?? assert.fail();
  // Somebody closed it, then it went.
  live.learn(name, {
    revision: 7,
    named: { artifact: one, admits: 'members', builds: [{ ...made, admits: 'members' }] },
  });
  assert.equal(live.gate(host)?.admits, 'members');
  live.learn(name, { revision: 7, named: null });
  assert.deepEqual([live.gate(host), live.toBeAsked(host)], [undefined, undefined]);
  t.mock.method(
    performance,
    'now',
    (
      (now) => () =>
        now + 1_001
    )(performance.now()),
  );
  assert.equal(live.toBeAsked(host), name);
});

test('a name that two ask for is asked for once, too many at once are turned away, and a table on the way has it asked again', async (t) => {
  const here = place(t);
  const one = here.site({ 'index.html': 'one' });
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  t.after(live.stop);
  await live.adopt(table(4, one));
  const asked: string[] = [];
  let answer: () => Promise<NameAnswer> = async () => madeBySeven(one, 4);
  const ask = makeAskNames(live, (host) => {
    asked.push(host);
    return answer();
  });
  const host = (build: number) => `build-${build}.timetable.artifacts.localhost:1`;
  await Promise.all([ask(host(1)), ask(host(1)), ask('timetable.localhost:1')]);
  assert.deepEqual(asked, ['build-1.timetable.artifacts.localhost']);
  // A decision that comes while the api is asked is not passed by.
  await live.adopt(table(5, one));
  answer = async () => {
    if (asked.length > 2) return madeBySeven(one, 6);
    await live.adopt(table(6, one));
    return madeBySeven(one, 5);
  };
  await ask(host(1));
  assert.equal(asked.length, 3);
  assert.ok(live.place(host(1)) !== undefined);
  answer = () => Promise.reject(new Error('nobody answers'));
  await assert.rejects(ask(host(2)), NameUnknown);
  const open: (() => void)[] = [];
  answer = () =>
    new Promise((resolve) => {
      open.push(() => resolve(madeBySeven(one, 6)));
    });
  let ended = 0;
  const crowd = Array.from({ length: 120 }, (_, n) =>
    ask(host(100 + n)).then(
      () => 'asked',
      (error: unknown) => (error as Error).name,
    ),
  );
  for (const end of crowd) void end.then(() => (ended += 1));
  while (ended < crowd.length) {
    for (const give of open.splice(0)) give();
    await new Promise((resolve) => setImmediate(resolve));
  }
  const ends = await Promise.all(crowd);
  assert.deepEqual(
    [ends.filter((end) => end === 'asked').length, ends.at(-1)],
    [100, 'NameUnknown'],
  );
});

test('what keeps an artifact from being served is named', async (t) => {
  const here = place(t);
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  const good = here.site({ 'index.html': 'front', 'a.css': 'b' });
  assert.equal(live.prepare(good), null);
  const cut = here.site({ 'index.html': 'whole page' });
  const page = createHash('sha256').update('whole page').digest('hex');
  const path = join(here.store, 'sha256', page.slice(0, 2), page);
  writeFileSync(path, 'whole');
  assert.equal(live.prepare(cut), 'index.html is cut short in its store');
  writeFileSync(path, 'whole PAGE');
  assert.match(live.prepare(cut) ?? '', /holds other bytes than its name says/);
  rmSync(path);
  assert.equal(live.prepare(cut), 'index.html is not in its store');
  assert.match(live.prepare('f'.repeat(64) as Digest) ?? '', /cannot be read/);
  const later = here.put(JSON.stringify({ format: 3, site: { files: [], entry: 'index.html' } }));
  assert.match(
    live.prepare(later) ?? '',
    /has a manifest of form 3, and 1 and 2 are read here; bring this edge up to date/,
  );
  const server = here.put(JSON.stringify({ format: 2, server: {}, site: { files: [] } }));
  assert.match(live.prepare(server) ?? '', /has a server, which is not known here/);
  // Once mended it can be prepared; nothing remembers the fault.
  here.put('whole page');
  assert.equal(live.prepare(cut), null);
});

test('a memory keeps what is used, up to its bytes, and nothing too large', () => {
  const memory = makeMemory(1000);
  for (let number = 0; number < 20; number += 1) {
    memory.keep(`k${number}`, Buffer.alloc(100, number));
    memory.get('k0');
  }
  assert.ok(memory.get('k0') !== undefined, 'what is used stays');
  assert.equal(memory.get('k5'), undefined);
  const kept = Array.from({ length: 20 }, (_, number) => memory.get(`k${number}`)).filter(
    (bytes) => bytes !== undefined,
  );
  assert.equal(kept.length, 10);
  memory.keep('big', Buffer.alloc(500));
  assert.equal(memory.get('big'), undefined);
});

test('what nothing names yet is seen at its address by whoever shows the key of the service, and by nobody else', async (t) => {
  const here = place(t);
  const [one, next] = [here.site({ 'index.html': 'one' }), here.site({ 'index.html': 'next' })];
  const live = await openLiveTable(here.store, openTableCopy(here.directory));
  await live.adopt(table(1, one));
  const host = `${hostLabelOf(next)}.artifacts.localhost:1`;
  // No key shows anything before the service has said which.
  for (const shown of [undefined, '', 'a key']) assert.equal(live.place(host, shown), undefined);
  live.letLook('a key');
  for (const shown of [undefined, '', 'a kex', 'a key ', 'a'])
    assert.equal(live.place(host, shown), undefined, shown);
  const found = live.place(host, 'a key');
  assert.ok(found?.kind === 'artifact' && found.artifact.digest === next && found.made === null);
  assert.equal(live.gate(host, 'a key')?.artifact, next);
  // The key opens no host but that of an artifact, and changes nothing for those that are named.
  assert.equal(live.place('artifacts.localhost:1', 'a key'), undefined);
  assert.equal(live.place(host.replace('artifacts', 'other'), 'a key'), undefined);
  const own = `${hostLabelOf(one)}.artifacts.localhost:1`;
  assert.deepEqual(
    [live.toBeAsked(own, 'a key'), live.toBeAsked(host, 'a key')],
    [undefined, undefined],
  );
  live.learn(live.toBeAsked(own) ?? assert.fail(), madeBySeven(one));
  const named = live.place(own, 'a key');
  assert.ok(named?.kind === 'artifact' && named.made?.build === 7);
});

test('a host’s port, case and trailing dot make no other host, and no word of the language is one', async (t) => {
  const { store, directory, site } = place(t);
  const artifact = site({ 'index.html': 'x' });
  const live = await openLiveTable(store, openTableCopy(directory));
  t.after(live.stop);
  await live.adopt(table(1, artifact));
  const label = hostLabelOf(artifact);
  for (const host of [`${label}.artifacts.localhost`, 'build-7.timetable.artifacts.localhost'])
    live.learn(host, madeBySeven(artifact));
  for (const host of [
    'timetable.localhost:1',
    'timetable.localhost',
    'TimeTable.localhost:8080',
    'timetable.localhost.',
    'timetable.localhost.:1',
    `${label}.artifacts.localhost`,
    `${label.toUpperCase()}.artifacts.localhost:99`,
    'build-7.timetable.artifacts.localhost.:2',
  ])
    assert.ok(live.place(host)?.artifact?.files.has('index.html'), host);
  for (const host of [
    'constructor',
    '__proto__',
    'toString:1',
    'hasOwnProperty',
    '',
    ':1',
    '.',
    `${label}.other`,
  ])
    assert.deepEqual([live.place(host), live.gate(host)], [undefined, undefined], host);
});
