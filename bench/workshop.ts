import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type BuildReply, buildRoutes, CallRefused, projectRoutes } from '@vaquero/contracts';
import type { Installation } from './installation.ts';

/** A project of the bench with a working copy. */
export interface Workshop {
  readonly name: string;
  readonly copy: string;
  readonly commit: (changed: Readonly<Record<string, string>>) => void;
  readonly push: () => Promise<BuildReply>;
}

/** Makes a project with a working copy that is pushed to it. */
export async function openWorkshop(here: Installation, name: string): Promise<Workshop> {
  await here.client.call(projectRoutes.makeProjectRoute, {
    body: { name, repository: { kind: 'hosted' } },
  });
  const copy = join(here.state, `copy-${name}`);
  mkdirSync(copy, { recursive: true });
  const git = (...args: string[]): void =>
    void execFileSync('git', ['-c', 'user.name=b', '-c', 'user.email=b@example', ...args], {
      cwd: copy,
      stdio: ['ignore', 'ignore', 'ignore'],
    });
  git('init', '--quiet', '--initial-branch=main');
  let number = 0;
  return {
    name,
    copy,
    commit: (changed) => {
      for (const [path, text] of Object.entries(changed)) {
        mkdirSync(join(copy, path, '..'), { recursive: true });
        writeFileSync(join(copy, path), text);
      }
      git('add', '--all');
      git('commit', '--quiet', '--allow-empty', '--message', 'bench');
    },
    push: async () => {
      git('push', '--quiet', here.remote.replace('timetable.git', `${name}.git`), 'main');
      number += 1;
      return ended(here, name, number);
    },
  };
}

async function ended(here: Installation, project: string, number: number): Promise<BuildReply> {
  for (;;) {
    const build = await here.client
      .call(buildRoutes.showBuildRoute, { params: { project, build: number } })
      .catch((error: unknown) => {
        // The push is not noticed yet.
        if (error instanceof CallRefused && error.problem.status === 404) return null;
        throw error;
      });
    if (build?.endedAt != null) return build;
    // What is measured are the instants that the service noted: asking often would only slow it.
    await pause(150);
  }
}

/** How long a step of a build took, in ms. */
export const took = (build: BuildReply, name: string): number => {
  const step = build.steps.find((one) => one.name === name);
  return (step?.endedAt ?? 0) - (step?.startedAt ?? 0);
};
