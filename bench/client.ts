import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import type { Row } from './commit-to-live.ts';
import { median } from './timing.ts';

const client = join(import.meta.dirname, '../packages/cli/dist/vaquero.mjs');
const rounds = 21;

/** How soon the client says its name, beside a Node.js that does nothing; and how soon it has loaded all of itself. */
export function benchClient(): Promise<readonly Row[]> {
  const bare: number[] = [];
  const name: number[] = [];
  const whole: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    bare.push(took(['-e', '0']));
    name.push(took([client, '--version']));
    whole.push(took([client, '--help']));
  }
  return Promise.resolve([
    rowOf('vaquero --version', median(name), median(bare), 2),
    rowOf('vaquero --help', median(whole), median(bare), 6),
  ]);
}

function took(args: readonly string[]): number {
  const begun = performance.now();
  spawnSync(process.execPath, args, { stdio: 'ignore' });
  return performance.now() - begun;
}

function rowOf(what: string, ours: number, floor: number, wanted: number): Row {
  const ratio = ours / floor;
  return {
    what,
    ours: `${ours.toFixed(0)} ms`,
    floor: `${floor.toFixed(0)} ms (node -e 0)`,
    ratio: ratio.toFixed(2),
    wanted: `≤ ${wanted}`,
    good: ratio <= wanted,
  };
}
