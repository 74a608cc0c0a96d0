// `npm run bench`: each figure as a ratio against a floor that is measured in the same run.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { prepare, root } from '../tools/prepare.mjs';

await prepare({ tests: false, bench: true });
const { build } = await import('../tools/build.mjs');
await build();
const names = process.argv.slice(2);
const end = spawnSync(
  process.execPath,
  ['--expose-gc', '--import', 'tsx', join(root, 'bench/bench.ts'), ...names],
  { stdio: 'inherit', env: { ...process.env, NODE_EXTRA_CA_CERTS: undefined } },
);
process.exit(end.status ?? 1);
