import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { execa } from 'execa';

/** A folder in which a project is made. */
export interface Making {
  readonly folder: string;
  readonly write: (files: Readonly<Record<string, string | object | null>>) => void;
  /** Copies a folder of a package of the registry, which carries templates of its makers. */
  readonly template: (name: string, inside: string, into?: string) => Promise<void>;
  /** Changes a text of a file, which must stand there. */
  readonly change: (path: string, from: string | RegExp, to: string) => void;
  /** Changes what a package.json says. */
  readonly manifest: (change: (manifest: Manifest) => void, path?: string) => void;
  /** Has a package manager write its lock file, and nothing else. */
  readonly lock: (manager: string, inside?: string) => Promise<void>;
}

export interface Manifest {
  name?: string;
  scripts?: Record<string, string>;
  dependencies?: Record<string, string>;
  devDependencies?: Record<string, string>;
  [key: string]: unknown;
}

const completeLock = new URL('../../tools/complete-lock.mjs', import.meta.url).pathname;
const packed = new Map<string, Promise<string>>();
const unpackedAt = mkdtempSync(join(tmpdir(), 'vaquero-templates-'));
process.once('exit', () => rmSync(unpackedAt, { recursive: true, force: true }));

/** Brings a package of the registry, once. */
function unpacked(name: string): Promise<string> {
  const bring = async (): Promise<string> => {
    const folder = join(unpackedAt, name.replaceAll('/', '_'));
    mkdirSync(folder, { recursive: true });
    const { stdout } = await execa('npm', ['pack', '--silent', name], { cwd: folder });
    await execa('tar', ['xzf', stdout.trim().split('\n').at(-1) ?? ''], { cwd: folder });
    return join(folder, 'package');
  };
  const known = packed.get(name) ?? bring();
  packed.set(name, known);
  return known;
}

/** Begins a project in an empty folder. */
export function making(folder: string): Making {
  const write: Making['write'] = (files) => {
    for (const [path, content] of Object.entries(files)) {
      const at = join(folder, path);
      if (content === null) rmSync(at, { recursive: true, force: true });
      else {
        mkdirSync(dirname(at), { recursive: true });
        writeFileSync(at, typeof content === 'string' ? content : JSON.stringify(content, null, 2));
      }
    }
  };
  return {
    folder,
    write,
    template: async (name, inside, into = '') => {
      cpSync(join(await unpacked(name), inside), join(folder, into), { recursive: true });
      // Registries leave files of that name out of packages; makers rename them.
      for (const hidden of ['_gitignore', 'gitignore'])
        if (existsSync(join(folder, into, hidden)))
          renameSync(join(folder, into, hidden), join(folder, into, '.gitignore'));
    },
    change: (path, from, to) => {
      const text = readFileSync(join(folder, path), 'utf8');
      const changed = text.replace(from, to);
      if (changed === text) throw new Error(`${path} does not say ${from}:\n${text}`);
      write({ [path]: changed });
    },
    manifest: (change, path = 'package.json') => {
      const manifest = JSON.parse(readFileSync(join(folder, path), 'utf8')) as Manifest;
      change(manifest);
      write({ [path]: manifest });
    },
    lock: (manager, inside = '') => lockWith(manager, join(folder, inside)),
  };
}

async function lockWith(manager: string, folder: string): Promise<void> {
  const env = {
    ...process.env,
    // The tests themselves begin faster without them.
    ...(process.env.TEST_CA_CERTS === undefined
      ? {}
      : { NODE_EXTRA_CA_CERTS: process.env.TEST_CA_CERTS }),
    CI: '',
    YARN_ENABLE_IMMUTABLE_INSTALLS: 'false',
    YARN_ENABLE_TELEMETRY: '0',
  };
  const run = (...command: string[]) =>
    execa(command[0] ?? '', command.slice(1), { cwd: folder, env, extendEnv: false, all: true });
  const [name = '', version = ''] = manager.split('@');
  if (name === 'npm') {
    await run('npm', 'install', '--package-lock-only', '--no-audit', '--no-fund', '--force');
    // A registry that lacks binaries of other platforms leaves them out of the lock file; `npm ci` wants them named.
    await run(process.execPath, completeLock);
  } else if (name === 'pnpm') {
    await run(
      'npx',
      '--yes',
      `pnpm@${version}`,
      'install',
      '--lockfile-only',
      '--no-frozen-lockfile',
    );
  } else if (version.startsWith('1')) {
    await run('npx', '--yes', `yarn@${version}`, 'install', '--ignore-scripts', '--ignore-engines');
  } else {
    await run(
      'npx',
      '--yes',
      '-p',
      `@yarnpkg/cli-dist@${version}`,
      'yarn',
      'install',
      ...(version.startsWith('2') ? ['--skip-builds'] : ['--mode=update-lockfile']),
    );
  }
  for (const left of [
    'node_modules',
    '.pnp.cjs',
    '.pnp.loader.mjs',
    '.yarn/cache',
    '.yarn/install-state.gz',
    '.yarn/unplugged',
  ])
    rmSync(join(folder, left), { recursive: true, force: true });
  if (readdirSync(folder).length === 0) throw new Error('nothing was made');
}
