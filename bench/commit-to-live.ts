import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { join } from 'node:path';
import type { Installation } from './installation.ts';
import { median } from './timing.ts';
import { traceLive } from './trace.ts';

const files = 2000;
const rounds = 15;
/** Rounds that warm caches, and programs that compile what is called often; they are not counted. */
const warming = 4;

/** One row of the table: a figure, its floor, and what is wanted of their ratio or of the figure itself. */
export interface Row {
  readonly what: string;
  readonly ours: string;
  readonly floor: string;
  readonly ratio: string;
  readonly wanted: string;
  readonly good: boolean;
}

const gitEnvironment = {
  PATH: process.env.PATH ?? '',
  HOME: '/nonexistent',
  GIT_CONFIG_NOSYSTEM: '1',
  GIT_CONFIG_GLOBAL: '/dev/null',
  GIT_AUTHOR_NAME: 'b',
  GIT_AUTHOR_EMAIL: 'b@example',
  GIT_COMMITTER_NAME: 'b',
  GIT_COMMITTER_EMAIL: 'b@example',
};
const git = (folder: string, ...args: string[]): void =>
  void execFileSync('git', args, {
    cwd: folder,
    env: gitEnvironment,
    stdio: ['ignore', 'ignore', 'inherit'],
  });

/**
 * Commit to live: from the instant the ref is updated (the time stamp of its file) until the edge answers
 * with the new page. The floor is a plain shell script that fetches, checks out, runs the same command,
 * hashes every output file, moves it and switches a symbolic link. It is given back for other figures: a disk that
 * was quick at new files a minute ago may not be now.
 */
export async function benchCommitToLive(
  here: Installation,
): Promise<{ readonly row: Row; readonly shell: () => number }> {
  const copy = join(here.state, 'bench-copy');
  mkdirSync(join(copy, 'src'), { recursive: true });
  git(copy, 'init', '--quiet', '--initial-branch=main');
  for (let number = 0; number < files; number += 1) {
    const folder = join(copy, 'src', `part-${number % 40}`);
    mkdirSync(folder, { recursive: true });
    writeFileSync(
      join(folder, `page-${number}.html`),
      `<!doctype html><title>${number}</title>${`<p>sailing ${number} `.repeat(60)}`,
    );
  }
  writeFileSync(
    join(copy, 'vaquero.yaml'),
    'recipe: site\nformat: 1\nsteps:\n  pages: {run: cp -r src out}\nserve: {site: out}\n',
  );
  const shell = await makeFloor(here.state, copy);
  const change = (word: string): void => {
    writeFileSync(join(copy, 'src', 'index.html'), `<!doctype html><h1>${word}</h1>`);
    git(copy, 'add', '--all');
    git(copy, 'commit', '--quiet', '--message', word);
  };
  const ours: number[] = [];
  const floor: number[] = [];
  for (let round = 0; round < warming + rounds; round += 1) {
    const word = `round-${round}-${Date.now()}`;
    change(word);
    const { refAt, liveAt } = await liveAfterPush(here, copy, word);
    await traceLive(here, 'timetable', refAt, liveAt);
    const live = liveAt - refAt;
    const plain = shell();
    if (round >= warming) {
      ours.push(live);
      floor.push(plain);
    }
  }
  const ratio = median(ours) / median(floor);
  const row: Row = {
    what: `commit to live, ${files} files`,
    ours: `${median(ours).toFixed(0)} ms`,
    floor: `${median(floor).toFixed(0)} ms (plain shell)`,
    ratio: ratio.toFixed(2),
    wanted: '≤ 1.5, better 1.3',
    good: ratio <= 1.5,
  };
  const again = (): number => {
    change(`floor-${Date.now()}`);
    return shell();
  };
  return { row, shell: again };
}

async function liveAfterPush(
  here: Installation,
  copy: string,
  word: string,
): Promise<{ readonly refAt: number; readonly liveAt: number }> {
  const host = `staging.timetable.localhost:${here.edgePort}`;
  const agent = new Agent({ keepAlive: true });
  git(copy, 'push', '--quiet', here.remote, 'main');
  for (;;) {
    const text = await ask(here.edgePort, host, agent);
    if (text.includes(word)) break;
    await new Promise((resolve) => setTimeout(resolve, 4));
  }
  const liveAt = Date.now();
  agent.destroy();
  const [repository = ''] = readdirSync(join(here.state, 'repositories'));
  const head = join(here.state, 'repositories', repository, 'refs/heads/main');
  return { refAt: statSync(head).mtimeMs, liveAt };
}

function ask(port: number, host: string, agent: Agent): Promise<string> {
  return new Promise((resolve, reject) => {
    const asking = request({ host: '127.0.0.1', port, agent, headers: { host } }, (res) => {
      let text = '';
      res.on('data', (chunk: Buffer) => {
        text += chunk.toString();
      });
      res.on('end', () => resolve(text));
    });
    asking.on('error', reject);
    asking.end();
  });
}

async function makeFloor(state: string, copy: string): Promise<() => number> {
  const folder = join(state, 'floor');
  mkdirSync(join(folder, 'releases'), { recursive: true });
  git(folder, 'clone', '--quiet', '--bare', '--no-local', copy, 'mirror.git');
  let round = 0;
  return () => {
    round += 1;
    const work = join(folder, `work-${round}`);
    const script = `set -e
cd ${folder}/mirror.git
git fetch --quiet ${copy} +refs/heads/main:refs/heads/main
mkdir ${work}
GIT_INDEX_FILE=${work}.index git read-tree refs/heads/main
GIT_INDEX_FILE=${work}.index git --work-tree=${work} checkout-index -a
cd ${work}
cp -r src out
find out -type f -print0 | xargs -0 sha256sum > ${work}.sums
mv out ${folder}/releases/${round}
ln -sfn ${folder}/releases/${round} ${folder}/live.new
mv -T ${folder}/live.new ${folder}/live`;
    const begun = performance.now();
    execFileSync('sh', ['-c', script], {
      env: gitEnvironment,
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    return performance.now() - begun;
  };
}
