import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { cpSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import {
  auditRoutes,
  environmentRoutes,
  makeClient,
  mapRoutes,
  peopleRoutes,
} from '@vaquero/contracts';
import { readEntry } from '@vaquero/core';
import { applyMigrations, makeLog, readApiConfig, startApi } from '@vaquero/service';
import { execa } from 'execa';
import mysql from 'mysql2/promise';
import { listenTo } from './support/events.ts';
import { atEnd, freePort, ownDatabase, temporaryFolder, until } from './support/place.ts';

const migrationsDirectory = new URL('../packages/service/migrations', import.meta.url).pathname;
const dump = new URL('upgrade/installation-0.7.sql', import.meta.url).pathname;
const params = { project: 'timetable' };

/** A start that dies behind a statement of the change of kinds, and before the note that it was done. */
async function diesBehind(t: TestContext, url: string, what: RegExp): Promise<void> {
  const deadly = join(temporaryFolder(t), 'migrations');
  cpSync(migrationsDirectory, deadly, { recursive: true });
  const file = join(deadly, '0046_kinds.sql');
  const statements = (await readFile(file, 'utf8')).split('--> statement-breakpoint');
  const place = statements.findIndex((one) => what.test(one.trim()));
  const made = statements[place]?.trim() ?? assert.fail(`no statement is ${what}`);
  statements[place] = `BEGIN NOT ATOMIC ${made} KILL CONNECTION CONNECTION_ID(); END`;
  await writeFile(file, statements.join('--> statement-breakpoint'));
  await assert.rejects(applyMigrations(url, deadly));
  // Its turn is over after half a minute; here it is over now.
  const next = await mysql.createConnection(url.replace('mariadb:', 'mysql:'));
  await next.query('UPDATE migration_turn SET until = now(3)');
  await next.end();
}

test('an installation of 0.7 is opened: its people sign in, its ledger, its log and its hold are as they were', async (t) => {
  const url = await ownDatabase({ empty: true });
  const old = await mysql.createConnection({
    uri: url.replace('mariadb:', 'mysql:'),
    multipleStatements: true,
  });
  await old.query(await readFile(dump, 'utf8'));
  await old.query(`UPDATE projects SET holding = '["lfs-pointer"]'`);
  const [rows] = await old.query<mysql.RowDataPacket[]>('SELECT id FROM repositories');
  await old.end();
  // Texts become bytes once, and a reference is made once, whenever a start dies.
  await diesBehind(t, url, /^UPDATE `deploys`/);
  await diesBehind(t, url, /^ALTER TABLE `attempts` ADD CONSTRAINT/);
  const state = temporaryFolder(t);
  const repository = join(state, 'repositories', `${rows[0]?.id}.git`);
  await execa('git', ['init', '--quiet', '--bare', repository]);
  const port = await freePort();
  const api = await startApi({
    config: readApiConfig({
      VAQUERO_STATE: state,
      VAQUERO_DATABASE_URL: url,
      VAQUERO_PORT: String(port),
      VAQUERO_RUNNER_TOKEN: 'runner-token-of-the-tests',
      VAQUERO_EDGE_TOKEN: 'edge-token-of-the-tests-',
    }),
    log: makeLog('test', 'fatal'),
    migrationsDirectory,
  });
  atEnd(t, () => api.stop());
  const address = `http://127.0.0.1:${port}`;
  const { secret } = await makeClient({ address }).call(peopleRoutes.signInForTokenRoute, {
    body: { name: 'petra', password: 'orrin sound at six', token: 'desk' },
  });
  const client = makeClient({ address, headers: { authorization: `Bearer ${secret}` } });

  const history = await client.call(environmentRoutes.historyRoute, {
    params: { ...params, environment: 'production' },
  });
  assert.deepEqual(
    history.deploys.map(({ number, kind, build, undone, reason }) => [
      number,
      kind,
      build,
      undone,
      reason,
    ]),
    [
      [3, 'rolled-back', 1, false, 'Nobody finds the next sailing.'],
      [2, 'promoted', 2, true, null],
      [1, 'promoted', 1, false, null],
    ],
  );
  const { entries } = await client.call(auditRoutes.auditRoute, { params });
  const read = entries.map(({ bytes }) => readEntry(bytes));
  // The repository itself was left behind: a look has seen that by now, and says so in the new form.
  const first = read.filter(({ form }) => form === 1);
  assert.ok(first.length >= 10, `${first.length} entries`);
  assert.ok(
    first.some(({ kind, who }) => kind === 'environment.promoted' && who.kind === 'person'),
  );
  assert.deepEqual(
    entries.map(({ leaf }) => leaf),
    entries.map(({ bytes }) => createHash('sha256').update(`\0${bytes}`).digest('hex')),
  );
  // What stopped its builds stands in its map now, and nothing else of that is changed.
  const map = await client.call(mapRoutes.showMapRoute, { params });
  assert.match(map.text, /staging: \{ ?follows: .*stops: \[ ?lfs-pointer ?\]/);
  assert.match(map.reason ?? '', /^What stops a build stood beside the map/);
  const { versions } = await client.call(mapRoutes.mapVersionsRoute, { params });
  assert.deepEqual(
    versions.map(({ version }) => version),
    [2, 1],
  );
  // What is written from now on follows on what was, and whoever listens from the beginning is told both.
  const lanes = await client.call(environmentRoutes.lanesRoute, { params });
  const [production] = lanes.environments;
  assert.equal(production?.hold?.reason, 'Nobody finds the next sailing.');
  const listening = await listenTo(t, address, { secret, project: 'timetable', after: 0 });
  await client.call(environmentRoutes.liftHoldRoute, {
    params: { ...params, environment: 'production' },
    body: { generation: production?.generation ?? 0 },
  });
  const after = await client.call(auditRoutes.auditRoute, { params, query: { limit: 1 } });
  const lifted = readEntry(after.entries[0]?.bytes ?? '');
  assert.deepEqual([lifted.form, lifted.kind], [2, 'environment.hold-lifted']);
  assert.ok(lifted.position > (entries[0]?.position ?? 0));
  await until('the old and the new is heard', () =>
    listening.heard.some(({ id }) => id === lifted.position),
  );
  assert.ok(listening.heard.some(({ id }) => id !== null && id <= (entries[0]?.position ?? 0)));
});
