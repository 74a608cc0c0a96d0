// `npm test`: installs what is missing, then types, lint and import directions, then every test over one
// MariaDB of its own. Arguments name test files to run instead of all.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative, resolve } from 'node:path';
import { prepare, root, run, sources } from './prepare.mjs';

await prepare({ tests: true });
const { build } = await import('./build.mjs');
await build();
const chosen = process.argv.slice(2).filter((word) => word !== '--slow');
// What takes longest and guards neither the walls nor the ledger is asked for: `npm run test-slow`.
const wantsSlow = process.argv.includes('--slow');
if (chosen.length === 0) {
  await Promise.all([
    run('checking types', join(root, 'node_modules/.bin/tsc'), ['-b']),
    run('checking form, lint and import directions', join(root, 'node_modules/.bin/biome'), [
      'ci',
      '--error-on-warnings',
      '.',
    ]),
  ]);
}

const directory = mkdtempSync(join(tmpdir(), 'vaquero-tests-'));
const server = spawn(
  process.execPath,
  ['--import', 'tsx', join(root, 'tests/support/serve-mariadb.ts'), directory],
  {
    cwd: root,
    stdio: ['pipe', 'pipe', 'inherit'],
  },
);
const url = await new Promise((resolve, reject) => {
  server.stdout.once('data', (bytes) => resolve(String(bytes).trim()));
  server.once('exit', (code) => reject(new Error(`the tests’ MariaDB ended with ${code}`)));
});

const isSlow = (path) => path.endsWith('.slow.test.ts');
const all = sources('packages', 'tests').filter((path) => path.endsWith('.test.ts'));
const files = chosen.length > 0 ? chosen : all.filter((path) => isSlow(path) === wantsSlow);
const { bundleTests } = await import('./bundle-tests.mjs');
const bundled = await bundleTests(files.map((path) => relative(root, resolve(path))));
const tests = spawn(
  process.execPath,
  [
    '--enable-source-maps',
    '--test',
    '--test-reporter=spec',
    `--test-timeout=${process.env.TEST_TIMEOUT_MS ?? (wantsSlow || chosen.length > 0 ? 1_200_000 : 480_000)}`,
    // Much of a test is waiting for the programs it starts: four keep two processors busy.
    '--test-concurrency=4',
    ...bundled,
  ],
  // Certificates of the machine's own cost 100 ms at the start of every process and are not needed here.
  {
    cwd: root,
    stdio: 'inherit',
    env: {
      ...process.env,
      VAQUERO_TEST_DATABASE: url,
      NODE_EXTRA_CA_CERTS: undefined,
      ...(process.env.NODE_EXTRA_CA_CERTS === undefined
        ? {}
        : { VAQUERO_MACHINE_CERTIFICATES: '1', TEST_CA_CERTS: process.env.NODE_EXTRA_CA_CERTS }),
    },
  },
);
const code = await new Promise((resolve) => tests.on('exit', resolve));
server.stdin.end();
await new Promise((resolve) => server.on('exit', resolve));
rmSync(directory, { recursive: true, force: true });
process.exit(code ?? 1);
