// Runs the tests' MariaDB until standard input ends; its address is the one line on standard output.
import { chmodSync } from 'node:fs';
import { join } from 'node:path';
import { applyMigrations, startMariadb } from '@vaquero/service';
import mysql from 'mysql2/promise';

const [directory = ''] = process.argv.slice(2);
chmodSync(directory, 0o711);
const mariadb = await startMariadb({ directory, durable: false });
// What every test begins with is made once, and copied for each: `ownDatabase`.
const admin = await mysql.createConnection(mariadb.url.replace('mariadb:', 'mysql:'));
await admin.query(
  'CREATE DATABASE vaquero_template CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin',
);
await admin.end();
await applyMigrations(
  mariadb.url.replace(/\/vaquero$/, '/vaquero_template'),
  join(process.cwd(), 'packages/service/migrations'),
);
process.stdout.write(`${mariadb.url}\n`);
process.stdin.resume();
process.stdin.once('end', () => {
  mariadb.stop().then(
    () => process.exit(0),
    () => process.exit(1),
  );
});
