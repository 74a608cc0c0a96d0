// Projects that the pictures need beside the demo's own: pushed to it as anybody would.
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';

const identity = [
  '-c',
  'user.name=Wren Adeyemi',
  '-c',
  'user.email=wren@kettle.example',
  '-c',
  'init.defaultBranch=main',
];

/** Makes a project, pushes files to it, and follows the build. */
export function pushSample(vaquero, origin, token, project, files) {
  const folder = mkdtempSync(join(tmpdir(), 'vaquero-sample-'));
  const git = (...args) => execFileSync('git', [...identity, ...args], { cwd: folder });
  try {
    for (const [path, content] of Object.entries(files)) {
      mkdirSync(dirname(join(folder, path)), { recursive: true });
      const text = typeof content === 'string' ? content : JSON.stringify(content, null, 2);
      writeFileSync(join(folder, path), text);
    }
    vaquero(['make', project]);
    git('init', '--quiet');
    git('add', '--all');
    git('commit', '--quiet', '--message', 'The first push');
    const to = `${origin.replace('://', `://x:${token}@`)}/git/${project}.git`;
    // Its end is told by the build's own page.
    git('push', '--quiet', '-o', 'follow', to, 'HEAD:main');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const site = (name) => ({
  [`sites/${name}/package.json`]: {
    name,
    version: '1.0.0',
    scripts: { build: 'vite build' },
    devDependencies: { vite: '6.4.1' },
  },
  [`sites/${name}/index.html`]: '<!doctype html><title>Kettle line</title>',
});

/** A repository with two sites, of which a person takes one. */
export const twoSites = {
  'package.json': { name: 'kettle', private: true, workspaces: ['sites/*'] },
  'package-lock.json': { name: 'kettle', lockfileVersion: 3, packages: {} },
  ...site('desk'),
  ...site('signs'),
};

/** A site whose bundler cannot find what a page imports. */
export const unresolved = {
  'package.json': {
    name: 'berths',
    type: 'module',
    scripts: { build: 'vite build', test: 'node --test' },
    devDependencies: { vite: '6.4.1' },
  },
  'index.html':
    '<!doctype html><html lang="en"><title>Berths</title><script type="module" src="/src/berths.js"></script></html>',
  'src/berths.js': "import { berths } from './tables/harbours.js';\nconsole.log(berths);\n",
  'berths.test.js': "import test from 'node:test';\ntest('a berth is free', () => undefined);\n",
};
