import { existsSync, readdirSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Limits } from '../config.ts';
import type { Anterooms } from './anteroom.ts';
import { descriptors, firstMounted, listed } from './handed-down.ts';
import type { Slot, Workplace } from './slot.ts';

/** What one command behind the walls may see and do. */
export interface Behind {
  readonly slot: Slot;
  readonly workplace: Workplace;
  readonly limits: Limits;
  readonly network: 'none' | 'out';
  readonly anterooms: Anterooms;
  readonly environment: Readonly<Record<string, string>>;
  readonly command: readonly string[];
  readonly sight: Sight;
}

/**
 * What a command sees at a path inside: a folder that is the runner's own to name, the very thing behind a descriptor,
 * or a link as it was committed. No path that a build, a commit or a recipe can influence is ever followed for it.
 */
export type Mount =
  | { readonly from: string; readonly at: string; readonly writable: boolean }
  | { readonly descriptor: number; readonly at: string }
  | { readonly link: string; readonly at: string };

/** What a command sees of the build: the tree, whole and writable or not at all, and mounts over it in turn. */
export interface Sight {
  readonly tree: 'writable' | 'hidden';
  /** Where the tree is hidden, a folder that stands under the mounts and may be written to; null: none may. */
  readonly under: string | null;
  readonly mounts: readonly Mount[];
  readonly home: string;
  readonly temporary: string;
  /** Where it starts, an absolute path inside. */
  readonly folder: string;
  /** Closes the descriptors of its mounts, once they are mounted or will never be. */
  readonly release: () => void;
}

/** The whole tree, and the folders that all steps of a build share. */
export function wholeSight(workplace: Workplace): Sight {
  const { home, temporary } = workplace;
  return {
    tree: 'writable',
    under: null,
    mounts: [],
    home,
    temporary,
    folder: '/build',
    release: () => undefined,
  };
}

/** The descriptors of a sight's mounts, in their order. */
export function mountedDescriptors({ mounts }: Sight): readonly number[] {
  return mounts.flatMap((mount) => ('descriptor' in mount ? [mount.descriptor] : []));
}

/**
 * Reads the environment from its descriptor, closes all but the standard ones, whoever they came from, and only then lets
 * the values be what steers a shell: they are no arguments of any program, so none of them can be taken for an option or shows in a list of processes.
 */
const front = `mapfile -d '' -t values <&${descriptors.values}
for open in /proc/self/fd/*; do open=\${open##*/}; ((open > 2)) && eval "exec $open>&-" 2>/dev/null; done
for value in "\${values[@]}"; do export "$value"; done
unset values value open`;

/** A command behind the front: a script of bash goes on in the same shell, which saves a start of one. */
function behindFront(command: readonly string[]): readonly string[] {
  const [program, flag, script, ...args] = command;
  return program === '/bin/bash' && flag === '-c' && script !== undefined
    ? [`${front}\n${script}`, ...args]
    : [`${front}\nexec "$@"`, 'begin', ...command];
}

/** What the program in front of the command reads. Throws a RangeError for a value that would end before its end. */
export function valuesText(environment: Readonly<Record<string, string>>): string {
  return listed(Object.entries(environment).map(([name, value]) => `${name}=${value}`));
}

/** Folders of certificates that programs look for; the tree they come from is public. */
const certificates = [
  '/etc/ssl/certs',
  '/usr/share/ca-certificates',
  '/usr/local/share/ca-certificates',
];

/** Settings of programs that every user of the machine reads: where names lead, which fonts there are, how a browser starts. */
const published = ['/etc/alternatives', '/etc/fonts', '/etc/chromium.d'];

/**
 * The command that enters the network namespace of a way out if it is given one, drops to the slot's uid, and starts
 * bubblewrap, which reads the rest of its arguments from a descriptor so that no path of the host shows
 * in the build's process list. Source: bwrap(1), setpriv(1).
 */
export function outerCommand(
  { slot, command }: Behind,
  namespace: string | null,
): readonly string[] {
  const enter = namespace === null ? [] : ['nsenter', `--net=${namespace}`, '--'];
  const drop =
    slot.uid === null
      ? []
      : [
          'setpriv',
          `--reuid=${slot.uid}`,
          `--regid=${slot.uid}`,
          '--clear-groups',
          '--no-new-privs',
          '--',
        ];
  return [
    ...enter,
    ...drop,
    'bwrap',
    '--args',
    String(descriptors.args),
    '--',
    '/bin/bash',
    '--norc',
    '-c',
    ...behindFront(command),
  ];
}

/** The arguments of bubblewrap, to be joined by NUL. Every mount that could be written to memory is closed or bounded. */
export function innerArguments(
  { workplace, network, sight }: Behind,
  namespace: string | null,
): readonly string[] {
  return [
    '--unshare-all',
    ...(namespace === null ? [] : ['--share-net']),
    '--unshare-user',
    '--disable-userns',
    '--die-with-parent',
    '--new-session',
    '--cap-drop',
    'ALL',
    '--clearenv',
    '--hostname',
    'build',
    '--uid',
    '1000',
    '--gid',
    '1000',
    '--ro-bind',
    '/usr',
    '/usr',
    ...['bin', 'sbin', 'lib', 'lib64', 'lib32'].flatMap((name) =>
      existsSync(`/usr/${name}`) ? ['--symlink', `usr/${name}`, `/${name}`] : [],
    ),
    ...nodeElsewhere(),
    '--proc',
    '/proc',
    '--dev',
    '/dev',
    '--size',
    String(64 << 20),
    '--tmpfs',
    '/dev/shm',
    '--remount-ro',
    '/dev',
    '--dir',
    '/etc',
    '--ro-bind-data',
    String(descriptors.passwd),
    '/etc/passwd',
    '--ro-bind-data',
    String(descriptors.hosts),
    '/etc/hosts',
    ...(network === 'out'
      ? ['--ro-bind-data', String(descriptors.resolv), '/etc/resolv.conf']
      : []),
    ...[...certificates, ...published]
      .filter((path) => path.startsWith('/etc') && existsSync(path))
      .flatMap((path) => ['--ro-bind', path, path]),
    '--dir',
    '/home',
    '--bind',
    sight.home,
    '/home/build',
    '--bind',
    sight.temporary,
    '/tmp',
    ...treeArguments(workplace, sight),
    ...mountArguments(sight),
    '--ro-bind-data',
    String(descriptors.npmrc),
    '/etc/npmrc',
    '--remount-ro',
    '/',
    '--chdir',
    sight.folder,
    '--seccomp',
    String(descriptors.calls),
    '--info-fd',
    String(descriptors.info),
    '--block-fd',
    String(descriptors.block),
  ];
}

function treeArguments({ tree: whole }: Workplace, { tree, under }: Sight): readonly string[] {
  if (tree === 'writable') return ['--bind', whole, '/build'];
  return under === null ? ['--dir', '/build'] : ['--bind', under, '/build'];
}

function mountArguments({ mounts }: Sight): readonly string[] {
  let number = firstMounted;
  return mounts.flatMap((mount) => {
    if ('link' in mount) return ['--symlink', mount.link, mount.at];
    if ('from' in mount) return [mount.writable ? '--bind' : '--ro-bind', mount.from, mount.at];
    number += 1;
    return ['--ro-bind-fd', String(number - 1), mount.at];
  });
}

/** A Node that was put outside /usr is shown too, alone. */
function nodeElsewhere(): readonly string[] {
  const home = dirname(dirname(process.execPath));
  if (process.execPath.startsWith('/usr/')) return [];
  return readdirSync(home).includes('bin') ? ['--ro-bind', home, '/opt/node'] : [];
}

/** Contents of the made files of /etc. */
export const madeFiles = {
  passwd: 'build:x:1000:1000:build:/home/build:/bin/sh\nroot:x:0:0:root:/:/bin/false\n',
  hosts: '127.0.0.1 localhost build\n::1 localhost\n',
  resolv: 'nameserver 10.0.2.3\n',
};
