// `npm run test-on -- 24`: runs the tests on another line of Node.js, which npm brings; more arguments name test files.
import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './prepare.mjs';

const [line = '', ...files] = process.argv.slice(2);
if (!/^\d+(?:\.\d+){0,2}$/.test(line)) {
  process.stderr.write('Next: npm run test-on -- 24\n');
  process.exit(2);
}
const name = `node-${process.platform}-${process.arch}`;
const prefix = join(root, '.vaquero', `node-${line}`);
mkdirSync(prefix, { recursive: true });
await run(`bringing Node.js ${line}`, 'npm', [
  'install',
  '--no-save',
  '--no-audit',
  '--no-fund',
  '--ignore-scripts',
  '--prefix',
  prefix,
  `${name}@${line}`,
]);
const folder = join(prefix, 'node_modules', name, 'bin');
const tests = spawn(join(folder, 'node'), [join(root, 'tools/test.mjs'), ...files], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, PATH: `${folder}:${process.env.PATH}` },
});
tests.on('exit', (code) => process.exit(code ?? 1));
