import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestContext } from 'node:test';
import { execa } from 'execa';

/** A repository of a test, with a working copy. */
export async function repository(t: TestContext) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-trees-'));
  t.after(() => rmSync(folder, { recursive: true, force: true }));
  const git = async (...args: string[]): Promise<string> =>
    (
      await execa('git', ['-c', 'user.name=Wren K', '-c', 'user.email=w@kettle.example', ...args], {
        cwd: folder,
        env: {
          GIT_CONFIG_GLOBAL: '/dev/null',
          GIT_CONFIG_NOSYSTEM: '1',
          GIT_COMMITTER_DATE: '1790000000 +0200',
        },
      })
    ).stdout;
  await git('init', '--quiet', '--initial-branch=main');
  const commit = async (message = 'x'): Promise<string> => {
    await git('add', '--all');
    await git('commit', '--quiet', '--allow-empty', '--message', message);
    return git('rev-parse', 'HEAD');
  };
  return { folder, directory: join(folder, '.git'), git, commit };
}
