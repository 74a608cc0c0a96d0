import { randomBytes } from 'node:crypto';
import { cpSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startGitHost } from '@vaquero/standins';
import { execa } from 'execa';
import { inBrowser } from './in-browser.ts';

const project = 'crew-rota';
const user = 'rota-reader';

/** The crews' rota: a project whose repository lies elsewhere and is read with a token alone. */
export interface CrewRota {
  readonly environment: Readonly<Record<string, string>>;
  /** Makes the project as somebody who may; once is enough. */
  readonly makeProject: (origin: string, name: string, password: string) => Promise<void>;
}

/** Opens the Git host on a port of loopback, with the rota committed; null where that port is in use. */
export async function openCrewRota(
  port: number,
  state: string,
  source: string,
): Promise<CrewRota | null> {
  const folder = join(state, 'git-host');
  const host = await startGitHost(folder, port).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'EADDRINUSE') return null;
    throw error;
  });
  if (host === null) return null;
  const path = join(folder, `${project}.git`);
  if (!existsSync(path)) {
    await host.repository(project);
    await commitRota(path, join(state, 'crew-rota'), source);
  }
  const tokenPath = join(state, 'crew-rota-token');
  if (!existsSync(tokenPath))
    writeFileSync(tokenPath, randomBytes(18).toString('base64url'), { mode: 0o600 });
  const token = readFileSync(tokenPath, 'utf8');
  host.behave('private', { user, token });
  return {
    environment: { VAQUERO_REPOSITORY_NETWORKS: '127.0.0.0/8' },
    makeProject: async (origin, name, password) => {
      const call = inBrowser(origin);
      await call('/api/sign-in', { name, password });
      const { projects } = await call('/api/projects');
      const known = projects as readonly { readonly name: string }[];
      if (!known.some((one) => one.name === project))
        await call('/api/projects', {
          name: project,
          repository: {
            kind: 'http',
            url: `${host.origin}/${project}.git`,
            credential: { user, secret: token },
          },
        });
      await call('/api/sign-out', {});
    },
  };
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
