// Where the demo keeps its state. Each build runs under a uid of its own, which must be able to reach its
// folder: a checkout below a closed folder, such as a home of root's, keeps the state elsewhere.
import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root } from './prepare.mjs';

function isOpenToOthers(path) {
  for (let at = path; at !== dirname(at); at = dirname(at))
    if ((statSync(at).mode & 0o001) === 0) return false;
  return true;
}

/** The demo's state directory: VAQUERO_STATE, .vaquero/demo here, or one below /var/lib. */
export function demoState() {
  if (process.env.VAQUERO_STATE !== undefined) return process.env.VAQUERO_STATE;
  if (process.getuid?.() !== 0 || isOpenToOthers(root)) return join(root, '.vaquero', 'demo');
  return join(
    '/var/lib/vaquero-demo',
    createHash('sha256').update(root).digest('hex').slice(0, 12),
  );
}
