import { readFile } from 'node:fs/promises';
import { execa } from 'execa';

const programs = [
  ['node', ['--version']],
  ['npm', ['--version']],
  ['git', ['--version']],
  ['python3', ['--version']],
  ['hugo', ['version']],
] as const;

/**
 * The versions of the machine's programs that steps commonly use, and of the system they come from. They
 * are part of every step's key: what another version made is not used again.
 */
export function toolVersions(): Promise<Readonly<Record<string, string>>> {
  known ??= askPrograms();
  return known;
}

/** Asked once for each process: starting six programs takes longer than all else at a runner's start. */
let known: Promise<Readonly<Record<string, string>>> | null = null;

async function askPrograms(): Promise<Readonly<Record<string, string>>> {
  const found = await Promise.all(
    programs.map(async ([name, args]) => {
      const env = { PATH: process.env.PATH ?? '', HOME: '/nonexistent' };
      const said = await execa(name, args, {
        reject: false,
        env,
        extendEnv: false,
        timeout: 10_000,
      });
      return said.exitCode === 0 ? [[name, plainVersion(said.stdout)] as const] : [];
    }),
  );
  const release = await readFile('/etc/os-release', 'utf8').catch(() => ''); // A system that names itself nowhere.
  const system = /^PRETTY_NAME="?([^"\n]*)/m.exec(release)?.[1] ?? 'unknown';
  return Object.fromEntries([...found.flat(), ['system', system] as const]);
}

/** The version alone: `git version 2.39.5` says its own name first, `v20.20.2` does not. */
function plainVersion(said: string): string {
  const [first = ''] = said.split('\n');
  return (/\bv?\d+\.\d+\S*/.exec(first)?.[0] ?? first).slice(0, 100);
}
