import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { execa } from 'execa';

/** A working copy of a person, with real Git underneath. */
export interface WorkingCopy {
  readonly folder: string;
  /** Writes files (null removes one), commits them, and returns the commit's id. */
  readonly commit: (
    message: string,
    files: Readonly<Record<string, string | null>>,
  ) => Promise<string>;
  readonly push: (to: string, ...args: string[]) => Promise<{ ok: boolean; said: string }>;
  readonly git: (...args: string[]) => Promise<string>;
}

const environment = {
  PATH: process.env.PATH ?? '/usr/bin:/bin',
  HOME: '/nonexistent',
  GIT_CONFIG_NOSYSTEM: '1',
  GIT_CONFIG_GLOBAL: '/dev/null',
  GIT_TERMINAL_PROMPT: '0',
  GIT_AUTHOR_NAME: 'Wren Adeyemi',
  GIT_AUTHOR_EMAIL: 'wren@kettle.example',
  GIT_COMMITTER_NAME: 'Wren Adeyemi',
  GIT_COMMITTER_EMAIL: 'wren@kettle.example',
};

/** Makes an empty working copy on the branch main. */
export async function makeWorkingCopy(folder: string): Promise<WorkingCopy> {
  mkdirSync(folder, { recursive: true });
  const run = (args: readonly string[]) =>
    execa('git', [...args], {
      cwd: folder,
      env: environment,
      extendEnv: false,
      reject: false,
      all: true,
    });
  const git = async (...args: string[]): Promise<string> => {
    const end = await run(args);
    if (end.exitCode !== 0) throw new Error(`git ${args.join(' ')}: ${end.all}`);
    return end.stdout;
  };
  await git('init', '--quiet', '--initial-branch=main');
  return {
    folder,
    git,
    commit: async (message, files) => {
      for (const [path, text] of Object.entries(files)) {
        if (text === null) await git('rm', '--quiet', '-r', path);
        else {
          mkdirSync(dirname(join(folder, path)), { recursive: true });
          writeFileSync(join(folder, path), text);
        }
      }
      await git('add', '--all');
      await git('commit', '--quiet', '--allow-empty', '--message', message);
      return git('rev-parse', 'HEAD');
    },
    push: async (to, ...args) => {
      const end = await run(['push', ...args, to, 'main']);
      return { ok: end.exitCode === 0, said: end.all ?? '' };
    },
  };
}

/** A recipe file whose one step is a shell text that writes the folder `out`. */
export function recipeOf(shell: string, more = ''): string {
  const indented = shell
    .trim()
    .split('\n')
    .map((line) => `      ${line}`)
    .join('\n');
  return `recipe: site\nformat: 1\nsteps:\n  pages:\n    run: |\n${indented}\n${more}serve:\n  site: out\n`;
}

/** The shell text that writes a page. */
export function writesPage(text: string): string {
  return `mkdir -p out && printf '%s' '<h1>${text}</h1>' > out/index.html`;
}
