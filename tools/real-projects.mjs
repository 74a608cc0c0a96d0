// `npm run real-projects`: makes every kind of project that people have, of templates of the registries, pushes each, and
// prints what became of it. Words after the command choose kinds by their names: `npm run real-projects -- yarn hugo`.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root } from './prepare.mjs';

const tests = spawn(
  process.execPath,
  [join(root, 'tools/test.mjs'), 'tests/real-projects/every-kind.ts'],
  {
    cwd: root,
    stdio: 'inherit',
    env: {
      ...process.env,
      TEST_TIMEOUT_MS: '7200000',
      REAL_PROJECTS: process.argv.slice(2).join(','),
    },
  },
);
tests.on('exit', (code) => {
  process.exitCode = code ?? 1;
});
