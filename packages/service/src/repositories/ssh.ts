import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type SshAddress, shellWord } from '@vaquero/core';
import { execa } from 'execa';
import { clearLeft } from '../base/clear-left.ts';
import { makeClosed } from '../base/closed-folder.ts';
import { OutsideFailure } from '../base/refused.ts';

/** A key pair: the private half as OpenSSH keeps it, the public one as a line of its own. */
export interface KeyPair {
  readonly privateKey: string;
  readonly publicKey: string;
}

/** What reads a repository over SSH: a private key, and the only key that its host may show, as `type base64`. */
export interface SshKey {
  readonly privateKey: string;
  readonly hostKey: string;
}

const scanWithinS = 8;
/** Strongest first. */
const types = [
  'ssh-ed25519',
  'ecdsa-sha2-nistp256',
  'ecdsa-sha2-nistp384',
  'ecdsa-sha2-nistp521',
  'ssh-rsa',
];
/** Nothing of the machine's own: neither a configuration nor a home. */
const bare = {
  env: { PATH: '/usr/bin:/bin', HOME: '/nonexistent', LC_ALL: 'C.UTF-8' },
  extendEnv: false,
} as const;

/** Makes a key pair (Ed25519) whose public half says what it is for. Source: ssh-keygen(1). */
export async function makeKeyPair(state: string, says: string): Promise<KeyPair> {
  return await inClosedFolder(state, async (folder) => {
    const path = join(folder, 'key');
    const args = ['-q', '-t', 'ed25519', '-N', '', '-C', says, '-f', path];
    const made = await execa('ssh-keygen', args, {
      ...bare,
      reject: false,
      stdin: 'ignore',
      timeout: 20_000,
    });
    if (made.exitCode !== 0)
      throw new OutsideFailure('ssh', `ssh-keygen: ${made.stderr.slice(0, 300)}`);
    const [privateKey, publicKey] = await Promise.all([
      readFile(path, 'utf8'),
      readFile(`${path}.pub`, 'utf8'),
    ]);
    return { privateKey, publicKey: publicKey.trim() };
  });
}

/** The keys that a host shows at an address that was judged, each as `type base64`, strongest first; none where no SSH answers. */
export async function hostKeysAt(address: string, port: number): Promise<readonly string[]> {
  const args = [
    '-T',
    String(scanWithinS),
    '-p',
    String(port),
    '-t',
    'ed25519,ecdsa,rsa',
    '--',
    address,
  ];
  const said = await execa('ssh-keyscan', args, {
    ...bare,
    reject: false,
    stdin: 'ignore',
    timeout: 2_000 * scanWithinS,
    maxBuffer: 1 << 20,
  });
  if (said.code === 'ENOENT')
    throw new OutsideFailure('ssh', 'ssh-keyscan is not there: install openssh-client');
  const shown = said.stdout.split('\n').flatMap((line) => {
    const [, type = '', key = ''] = line.split(' ');
    return types.includes(type) && /^[A-Za-z0-9+/]{40,3900}={0,2}$/.test(key)
      ? [`${type} ${key}`]
      : [];
  });
  const rank = (line: string): number => types.indexOf(line.split(' ')[0] ?? '');
  return [...new Set(shown)].toSorted((one, other) => rank(one) - rank(other));
}

/** The fingerprint of a host's key as people compare it. Source: ssh-keygen(1), -l. */
export function fingerprintOf(hostKey: string): string {
  const [, key = ''] = hostKey.split(' ');
  const hash = createHash('sha256').update(Buffer.from(key, 'base64')).digest('base64');
  return `SHA256:${hash.replace(/=+$/, '')}`;
}

/**
 * Lends Git a way over SSH: this key and no other, this host's key and no other, at the address that was judged; no
 * configuration, agent, password, forwarding or command of the machine's. The key lies in a closed folder for as long.
 * Source: ssh_config(5).
 */
export async function overSsh<T>(
  state: string,
  { port }: SshAddress,
  address: string,
  { privateKey, hostKey }: SshKey,
  use: (extra: Readonly<Record<string, string>>) => Promise<T>,
): Promise<T> {
  return await inClosedFolder(state, async (folder) => {
    const [key, known] = [join(folder, 'key'), join(folder, 'known')];
    await Promise.all([
      writeFile(key, privateKey, { mode: 0o600 }),
      writeFile(known, `${alias} ${hostKey}\n`, { mode: 0o600 }),
    ]);
    const options = {
      IdentityFile: quoted(key),
      IdentitiesOnly: 'yes',
      IdentityAgent: 'none',
      UserKnownHostsFile: quoted(known),
      GlobalKnownHostsFile: '/dev/null',
      StrictHostKeyChecking: 'yes',
      HostKeyAlias: alias,
      Hostname: address,
      Port: String(port),
      CheckHostIP: 'no',
      UpdateHostKeys: 'no',
      VerifyHostKeyDNS: 'no',
      BatchMode: 'yes',
      PreferredAuthentications: 'publickey',
      ProxyCommand: 'none',
      ProxyJump: 'none',
      ControlPath: 'none',
      ClearAllForwardings: 'yes',
      PermitLocalCommand: 'no',
      RequestTTY: 'no',
      ConnectTimeout: '10',
      ServerAliveInterval: '15',
    };
    const words = Object.entries(options).flatMap(([name, value]) => [
      '-o',
      shellWord(`${name}=${value}`),
    ]);
    return await use({
      GIT_ALLOW_PROTOCOL: 'ssh',
      GIT_SSH_COMMAND: ['ssh', '-F', '/dev/null', ...words].join(' '),
      GIT_SSH_VARIANT: 'ssh',
    });
  });
}

/** A path as ssh_config(5) takes one: it parts words at spaces and replaces what a per cent sign begins. */
const quoted = (path: string): string => `"${path.replaceAll('%', '%%')}"`;

/** What the host is called where its key is looked up: one entry, whatever its name and port. */
const alias = 'repository-host';

const prefix = 'use-';

async function inClosedFolder<T>(state: string, use: (folder: string) => Promise<T>): Promise<T> {
  const all = join(state, 'ssh');
  await makeClosed(all);
  await clearLeft(all, prefix);
  const folder = await mkdtemp(join(all, prefix));
  try {
    return await use(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
