import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { applyMigrations } from './migrate.ts';
import { type OpenDatabase, openDatabase } from './pool.ts';

export const migrationsFolder = join(process.cwd(), 'packages/service/migrations');

/** Makes a database of its own in the tests' MariaDB, without a table in it; returns its URL. */
export async function emptyDatabase(collation = 'utf8mb4_nopad_bin'): Promise<string> {
  const server = process.env.VAQUERO_TEST_DATABASE ?? assert.fail('run tests with npm test');
  const name = `vaquero_${randomBytes(8).toString('hex')}`;
  const admin = await mysql.createConnection(server.replace('mariadb:', 'mysql:'));
  await admin.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE ${collation}`);
  await admin.end();
  return server.replace(/\/vaquero$/, `/${name}`);
}

/** Opens a database of its own, with this version's schema. */
export async function databaseForTests(): Promise<OpenDatabase & { readonly url: string }> {
  const url = await emptyDatabase();
  await applyMigrations(url, migrationsFolder);
  return { ...openDatabase(url), url };
}
