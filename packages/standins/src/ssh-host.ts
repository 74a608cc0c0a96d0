import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';

/** A host of repositories that is reached over SSH: Debian's own server, on loopback, for whoever's key was added. */
export interface SshHost {
  readonly port: number;
  /** The address of a repository, and the folder that it lies in. */
  readonly repository: (name: string) => { readonly url: string; readonly folder: string };
  /** Lets nobody in but the holders of these keys; each a line as ssh-keygen writes it. They only ever read. */
  readonly admit: (...publicKeys: readonly string[]) => void;
  /** It shows another key of its own from now on. */
  readonly changeKey: () => Promise<void>;
  /** The fingerprint of its key, as whoever runs it would tell it. */
  readonly fingerprint: () => Promise<string>;
  readonly stop: () => Promise<void>;
}

const program = '/usr/sbin/sshd';

/**
 * Starts a host whose repositories lie below a folder. Source: sshd_config(5), sshd(8) on AUTHORIZED_KEYS. Throws where sshd does
 * not start, with its own words.
 */
export async function startSshHost(folder: string, wanted = 0): Promise<SshHost> {
  const own = join(folder, 'ssh');
  mkdirSync(own, { recursive: true, mode: 0o700 });
  // Where it goes without rights; sshd(8) wants it to be there.
  if (process.getuid?.() === 0) mkdirSync('/run/sshd', { recursive: true, mode: 0o755 });
  const key = join(own, 'host-key');
  if (!existsSync(key)) await makeKey(key);
  const port = wanted === 0 ? await freePort() : wanted;
  const admitted = join(own, 'admitted');
  if (!existsSync(admitted)) writeFileSync(admitted, '', { mode: 0o600 });
  const reader = join(own, 'read.sh');
  // Git's own shell: nothing but reading a repository, and none outside of the folder.
  writeFileSync(reader, readOnly(folder), { mode: 0o755 });
  writeFileSync(
    join(own, 'config'),
    `${[
      `HostKey ${key}`,
      `AuthorizedKeysFile ${admitted}`,
      'ListenAddress 127.0.0.1',
      'PidFile none',
      'UsePAM no',
      'StrictModes no',
      'PasswordAuthentication no',
      'KbdInteractiveAuthentication no',
      'PermitRootLogin prohibit-password',
      'AllowTcpForwarding no',
      'X11Forwarding no',
      `ForceCommand ${reader}`,
    ].join('\n')}\n`,
  );
  const start = () =>
    listening(
      spawn(program, ['-D', '-e', '-f', join(own, 'config'), '-p', String(port)], {
        stdio: ['ignore', 'ignore', 'pipe'],
      }),
      port,
    );
  let server = await start();
  return {
    port,
    repository: (name) => {
      const path = join(folder, `${name}.git`);
      return { url: `ssh://${userInfo().username}@127.0.0.1:${port}${path}`, folder: path };
    },
    admit: (...publicKeys) =>
      writeFileSync(admitted, publicKeys.map((line) => `restrict ${line}\n`).join('')),
    changeKey: async () => {
      await ended(server);
      rmSync(key);
      await makeKey(key);
      server = await start();
    },
    fingerprint: async () => {
      const said = await output('ssh-keygen', ['-l', '-f', `${key}.pub`]);
      return said.split(' ')[1] ?? '';
    },
    stop: () => ended(server),
  };
}

/** The command of whoever comes in: `git-upload-pack 'PATH'`, below the folder. */
function readOnly(folder: string): string {
  return `#!/bin/sh
case "$SSH_ORIGINAL_COMMAND" in
  "git-upload-pack '${folder}/"*".git'") ;;
  *) echo "Only repositories are read here." >&2; exit 1 ;;
esac
path="\${SSH_ORIGINAL_COMMAND#git-upload-pack \\'}"
path="\${path%\\'}"
case "$path" in *..*|*\\'*) exit 1 ;; esac
export GIT_CONFIG_NOSYSTEM=1 GIT_CONFIG_GLOBAL=/dev/null
exec git -c safe.directory='*' upload-pack "$path"
`;
}

async function makeKey(path: string): Promise<void> {
  rmSync(`${path}.pub`, { force: true });
  await output('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-C', 'host', '-f', path]);
}

async function output(command: string, args: readonly string[]): Promise<string> {
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  let said = '';
  child.stdout.on('data', (bytes: Buffer) => {
    said += bytes;
  });
  const [code] = await once(child, 'close');
  if (code !== 0) throw new Error(`${command} ended with ${code}`);
  return said;
}

/** Waits until somebody who connects is answered. */
async function listening(server: ChildProcess, port: number): Promise<ChildProcess> {
  let said = '';
  server.stderr?.on('data', (bytes: Buffer) => {
    said = (said + bytes).slice(-2000);
  });
  while (server.exitCode === null) {
    if (await answers(port)) return server;
    await pause(20);
  }
  throw new Error(`sshd ended with ${server.exitCode}: ${said}`);
}

async function answers(port: number): Promise<boolean> {
  const socket = connect(port, '127.0.0.1');
  try {
    await once(socket, 'data');
    return true;
  } catch {
    return false; // Not yet; that it has ended is seen by who asks.
  } finally {
    socket.destroy();
  }
}

async function ended(server: ChildProcess): Promise<void> {
  if (server.exitCode !== null) return;
  const over = once(server, 'exit');
  server.kill('SIGTERM');
  await over;
}

async function freePort(): Promise<number> {
  const probe = createServer().listen(0, '127.0.0.1');
  await once(probe, 'listening');
  const address = probe.address();
  const port = typeof address === 'object' && address !== null ? address.port : 0;
  await new Promise((resolve) => probe.close(resolve));
  return port;
}
