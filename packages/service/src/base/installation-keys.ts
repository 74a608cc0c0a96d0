import {
  createHash,
  createHmac,
  createPrivateKey,
  createPublicKey,
  generateKeyPairSync,
  hkdfSync,
  type KeyObject,
  randomBytes,
} from 'node:crypto';
import { link, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';

/** The keys of an installation. They lie beside the database, never in it. */
export interface InstallationKeys {
  /** A keyed hash: tells equal texts from others without telling what they say. */
  readonly keyed: (text: string) => Digest;
  /** What the service shows an edge to see an artifact at its address before anybody else does. */
  readonly looking: string;
  /** The key that values of variables are sealed with. */
  readonly sealing: Buffer;
  /** The Ed25519 key that statements are signed with, and its public half as PEM. */
  readonly signing: KeyObject;
  readonly publicPem: string;
  /** The Ed25519 key that passes of visitors are signed with, and its public half, which edges hold. */
  readonly passing: KeyObject;
  readonly passPem: string;
  /** Names the public key: the start of the SHA-256 of its DER form. */
  readonly keyId: string;
}

/** Reads the installation's keys, or makes them at its first start; readable by their owner alone. */
export async function openInstallationKeys(stateDirectory: string): Promise<InstallationKeys> {
  const root = Buffer.from(
    await kept(join(stateDirectory, 'installation-key'), () => randomBytes(32).toString('base64')),
    'base64',
  );
  const pem = await kept(join(stateDirectory, 'signing-key.pem'), newKey);
  const passing = createPrivateKey(await kept(join(stateDirectory, 'pass-key.pem'), newKey));
  const derive = (use: string): Buffer => Buffer.from(hkdfSync('sha256', root, '', use, 32));
  const keying = derive('reuse');
  const signing = createPrivateKey(pem);
  const publicKey = createPublicKey(signing);
  const hash = createHash('sha256').update(publicKey.export({ type: 'spki', format: 'der' }));
  return {
    keyed: (text) => createHmac('sha256', keying).update(text, 'utf8').digest('hex') as Digest,
    looking: derive('looks').toString('base64url'),
    sealing: derive('variables'),
    signing,
    publicPem: publicKey.export({ type: 'spki', format: 'pem' }).toString(),
    passing,
    passPem: createPublicKey(passing).export({ type: 'spki', format: 'pem' }).toString(),
    keyId: hash.digest('hex').slice(0, 16),
  };
}

function newKey(): string {
  const { privateKey } = generateKeyPairSync('ed25519');
  return privateKey.export({ type: 'pkcs8', format: 'pem' }).toString();
}

/** Of two processes that start at once one makes the file and both read it. */
async function kept(path: string, make: () => string): Promise<string> {
  const read = (): Promise<string | null> =>
    readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null;
      throw error;
    });
  const there = await read();
  if (there !== null) return there;
  const mine = `${path}.${process.pid}.new`;
  await writeFile(mine, make(), { mode: 0o600 });
  await link(mine, path).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'EEXIST') throw error;
  });
  await rm(mine);
  return (await read()) ?? '';
}
