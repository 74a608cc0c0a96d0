// `npm run demo`: installs what is missing, builds what changed, then runs the demo.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { demoState } from '../tools/demo-state.mjs';
import { prepare, root } from '../tools/prepare.mjs';

await prepare({ tests: false, hosts: true });
const { build } = await import('../tools/build.mjs');
await build();
const demo = spawn(process.execPath, [join(root, 'dist', 'demo.mjs')], {
  stdio: 'inherit',
  env: { ...process.env, VAQUERO_STATE: demoState() },
});
// Ctrl-C goes to the whole group: the demo stops by itself and this only waits for it.
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => signal === 'SIGTERM' && demo.kill('SIGTERM'));
demo.on('exit', (code) => process.exit(code ?? 1));
