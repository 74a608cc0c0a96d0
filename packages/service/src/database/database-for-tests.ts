import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import type { CommitId } from '@vaquero/core';
import mysql from 'mysql2/promise';
import { uuidv7 } from 'uuidv7';
import { type Db, type OpenDatabase, openDatabase } from './pool.ts';
import { builds, projects, repositories } from './tables.ts';

export const migrationsFolder = join(process.cwd(), 'packages/service/migrations');

/** Makes a database of its own in the tests' MariaDB, without a table in it; returns its URL. */
export async function emptyDatabase(collation = 'utf8mb4_nopad_bin'): Promise<string> {
  return databaseWith(async () => undefined, collation);
}

/** The same with this version's schema, copied and not migrated: each of some four hundred tests would wait for seconds. */
export async function copiedDatabase(): Promise<string> {
  return databaseWith(async (admin) => {
    // A table may refer to one that comes behind it.
    await admin.query('SET foreign_key_checks = 0');
    const [tables] = await admin.query<mysql.RowDataPacket[]>('SHOW TABLES IN vaquero_template');
    for (const row of tables) {
      const [made] = await admin.query<mysql.RowDataPacket[]>(
        `SHOW CREATE TABLE vaquero_template.${Object.values(row)[0]}`,
      );
      await admin.query(String(made[0]?.['Create Table']));
    }
    for (const table of ['__drizzle_migrations', 'migration_turn', 'log_head'])
      await admin.query(`INSERT INTO ${table} SELECT * FROM vaquero_template.${table}`);
  });
}

async function databaseWith(
  fill: (admin: mysql.Connection) => Promise<void>,
  collation = 'utf8mb4_nopad_bin',
): Promise<string> {
  const server = process.env.VAQUERO_TEST_DATABASE ?? assert.fail('run tests with npm test');
  const name = `vaquero_${randomBytes(8).toString('hex')}`;
  const admin = await mysql.createConnection(server.replace('mariadb:', 'mysql:'));
  await admin.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE ${collation}`);
  await admin.query(`USE ${name}`);
  await fill(admin);
  await admin.end();
  return server.replace(/\/vaquero$/, `/${name}`);
}

/** Opens a database of its own, with this version's schema. */
export async function databaseForTests(): Promise<OpenDatabase & { readonly url: string }> {
  const url = await copiedDatabase();
  return { ...openDatabase(url), url };
}

/** Puts a project with its repository there, as far as other rows refer to it; returns its id. */
export async function projectIn(db: Db): Promise<string> {
  const id = uuidv7();
  await db.insert(repositories).values({ id, kind: 'hosted', place: '', homeId: id });
  const asMade = {
    name: `timetable-${id.slice(-12)}`,
    folder: '',
    branch: 'main',
    mapVersion: 1,
    madeAt: 0,
  };
  await db.insert(projects).values({ ...asMade, id, repositoryId: id });
  return id;
}

/** Puts a queued build of a project of its own there; returns its id. */
export async function buildIn(db: Db): Promise<string> {
  const id = uuidv7();
  await db.insert(builds).values({
    id,
    projectId: await projectIn(db),
    number: 1,
    state: 'queued',
    ref: 'refs/heads/main',
    commitId: 'c'.repeat(40) as CommitId,
    subject: '',
    author: '',
    committedAt: 0,
    cause: '',
    queuedAt: 0,
  });
  return id;
}
