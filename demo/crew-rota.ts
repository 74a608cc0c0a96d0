import { cpSync, existsSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { startSshHost } from '@vaquero/standins';
import { execa } from 'execa';
import { inBrowser } from './in-browser.ts';

const project = 'crew-rota';

/** The crews' rota: a project whose repository lies elsewhere and is read over SSH, with a key that was made for it. */
export interface CrewRota {
  readonly environment: Readonly<Record<string, string>>;
  /** Makes the project as somebody who may; once is enough. */
  readonly makeProject: (origin: string, name: string, password: string) => Promise<void>;
  readonly stop: () => Promise<void>;
}

/** Opens a host over SSH on a port of loopback, with the rota committed; null where that port is in use. */
export async function openCrewRota(
  port: number,
  state: string,
  source: string,
): Promise<CrewRota | null> {
  if (await isInUse(port)) return null;
  const host = await startSshHost(join(state, 'ssh-host'), port);
  const { url, folder } = host.repository(project);
  if (!existsSync(folder)) {
    await execa('git', ['init', '--quiet', '--bare', '--initial-branch=main', folder]);
    await commitRota(folder, join(state, 'crew-rota'), source);
  }
  return {
    environment: { VAQUERO_REPOSITORY_NETWORKS: '127.0.0.0/8' },
    makeProject: async (origin, name, password) => {
      const call = inBrowser(origin);
      await call('/api/sign-in', { name, password });
      const { projects } = await call('/api/projects');
      const known = projects as readonly { readonly name: string }[];
      if (!known.some((one) => one.name === project)) {
        const { key, publicKey } = await call('/api/repository-keys', { url });
        host.admit(String(publicKey));
        const hostKey = await host.fingerprint();
        await call('/api/projects', {
          name: project,
          repository: { kind: 'ssh', url, key, hostKey },
        });
      }
      await call('/api/sign-out', {});
    },
    stop: host.stop,
  };
}

async function isInUse(port: number): Promise<boolean> {
  const probe = createServer().listen(port, '127.0.0.1');
  return new Promise((resolve) => {
    probe.once('error', () => resolve(true));
    probe.once('listening', () => probe.close(() => resolve(false)));
  });
}

/** Commits what the crews have, as one of them, and pushes it where the host keeps it. */
async function commitRota(to: string, copy: string, source: string): Promise<void> {
  cpSync(source, copy, { recursive: true });
  const env = {
    PATH: process.env.PATH ?? '',
    GIT_CONFIG_GLOBAL: '/dev/null',
    GIT_AUTHOR_NAME: 'Wren Adeyemi',
    GIT_AUTHOR_EMAIL: 'wren@kettle.example',
    GIT_COMMITTER_NAME: 'Wren Adeyemi',
    GIT_COMMITTER_EMAIL: 'wren@kettle.example',
  };
  const git = (...args: string[]) => execa('git', args, { cwd: copy, env, extendEnv: false });
  await git('init', '--quiet', '--initial-branch=main');
  await git('add', '--all');
  await git('commit', '--quiet', '--message', 'Crews of the winter weeks');
  await git('push', '--quiet', to, 'main');
}
