import { execa } from 'execa';
import { type Kind, landmark, page } from './kind.ts';
import type { Making } from './templates.ts';

/** A template of Vite's, with the landmark as its title. */
async function vite(
  at: Making,
  template: string,
  into = '',
  name = 'timetable',
  bundler?: string,
): Promise<void> {
  await at.template('create-vite', `template-${template}`, into);
  const inside = (path: string): string => (into === '' ? path : `${into}/${path}`);
  at.change(inside('index.html'), /<title>.*<\/title>/s, `<title>${landmark}</title>`);
  at.manifest((manifest) => {
    manifest.name = name;
    if (bundler !== undefined)
      manifest.devDependencies = { ...manifest.devDependencies, vite: bundler };
  }, inside('package.json'));
}

/** Yarn asks for packages of all platforms; some of the newest bundler's are on no mirror. */
function bundlerFor(manager: string): string | undefined {
  return manager.startsWith('yarn') ? '6.4.1' : undefined;
}

const viteKind = (template: string, manager: string, more: Partial<Kind> = {}): Kind => ({
  name: `vite ${template}, ${manager}`,
  becomes: { site: 'dist' },
  make: async (at) => {
    await vite(at, template, '', 'timetable', bundlerFor(manager));
    if (!manager.startsWith('npm') && manager !== 'none')
      at.manifest((manifest) => {
        manifest.packageManager = manager;
      });
    if (manager.startsWith('yarn') && !manager.startsWith('yarn@1')) at.write({ 'yarn.lock': '' });
    if (manager !== 'none') await at.lock(manager);
  },
  ...more,
});

/** One that links packages as npm does; the second yarn's own way does not know modules of today's bundlers. */
const linkedYarn = (manager: string): Kind => ({
  name: `vite vanilla, ${manager} with node_modules`,
  becomes: { site: 'dist' },
  make: async (at) => {
    await vite(at, 'vanilla', '', 'timetable', bundlerFor(manager));
    at.manifest((manifest) => {
      manifest.packageManager = manager;
    });
    at.write({ 'yarn.lock': '', '.yarnrc.yml': 'nodeLinker: node-modules\n' });
    await at.lock(manager);
  },
});

/** A repository with several packages, one of them a site that imports another. */
const workspaces =
  (manager: string, script: string | null): Kind['make'] =>
  async (at) => {
    const isNpm = manager.startsWith('npm');
    at.write({
      'package.json': {
        name: 'kettle',
        private: true,
        ...(isNpm ? {} : { packageManager: manager }),
        ...(manager.startsWith('pnpm') ? {} : { workspaces: ['apps/*', 'packages/*'] }),
        ...(script === null ? {} : { scripts: { build: script } }),
      },
      ...(manager.startsWith('pnpm')
        ? { 'pnpm-workspace.yaml': 'packages:\n  - "apps/*"\n  - "packages/*"\n' }
        : {}),
      ...(manager.startsWith('yarn@4')
        ? { 'yarn.lock': '', '.yarnrc.yml': 'nodeLinker: node-modules\n' }
        : {}),
      'packages/words/package.json': {
        name: '@kettle/words',
        version: '1.0.0',
        type: 'module',
        main: 'dist/index.js',
        scripts: { build: 'mkdir -p dist && cp index.js dist/index.js' },
      },
      'packages/words/index.js': `export const next = '${landmark}';\n`,
    });
    await vite(at, 'vanilla', 'apps/web', '@kettle/web', bundlerFor(manager));
    at.manifest((manifest) => {
      const version = isNpm || manager.startsWith('yarn@1') ? '1.0.0' : 'workspace:*';
      manifest.dependencies = { ...manifest.dependencies, '@kettle/words': version };
    }, 'apps/web/package.json');
    at.write({
      'apps/web/src/main.js':
        "import { next } from '@kettle/words';\ndocument.querySelector('#app').textContent = next;\n",
    });
    await at.lock(manager);
  };

const two: Kind['make'] = async (at) => {
  at.write({ 'package.json': { name: 'kettle', private: true, workspaces: ['sites/*'] } });
  for (const site of ['desk', 'signs']) await vite(at, 'vanilla', `sites/${site}`, site);
  await at.lock('npm');
};

/** Bundlers with every package manager, in one package and in several, and what has no site. */
export const packageKinds: readonly Kind[] = [
  // Plain pages.
  { name: 'plain pages', becomes: { site: '.' }, make: (at) => at.write({ 'index.html': page }) },
  {
    name: 'pages in docs beside a library',
    becomes: { site: 'docs' },
    make: (at) => at.write({ 'docs/index.html': page, 'lib.py': 'x = 1\n' }),
  },
  // One bundler, many templates.
  ...['vanilla-ts', 'react-ts', 'vue-ts', 'svelte-ts', 'preact', 'lit', 'solid', 'lit-ts'].map(
    (template) => viteKind(template, 'npm'),
  ),
  // Package managers.
  viteKind('vanilla', 'pnpm@8.15.9'),
  viteKind('react', 'pnpm@9.15.4'),
  viteKind('vanilla', 'pnpm@10.12.1'),
  viteKind('vanilla', 'yarn@1.22.22'),
  viteKind('vanilla', 'yarn@3.8.7'),
  viteKind('vanilla', 'yarn@4.9.2'),
  ...['yarn@4.9.2', 'yarn@2.4.2'].map(linkedYarn),

  { ...viteKind('vanilla', 'none'), name: 'vite vanilla without a lock file' },
  // Several packages.
  { name: 'npm workspaces', becomes: { site: 'apps/web/dist' }, make: workspaces('npm', null) },
  {
    name: 'npm workspaces, built by the root’s script',
    becomes: { site: 'apps/web/dist' },
    make: workspaces('npm', 'npm run build -w packages/words && npm run build -w apps/web'),
  },
  {
    name: 'npm workspaces, one folder of them',
    folder: 'apps/web',
    becomes: { site: 'dist' },
    make: workspaces('npm', null),
  },
  {
    name: 'pnpm workspaces',
    becomes: { site: 'apps/web/dist' },
    make: workspaces('pnpm@9.15.4', null),
  },
  {
    name: 'pnpm workspaces, one folder of them',
    folder: 'apps/web',
    becomes: { site: 'dist' },
    make: workspaces('pnpm@9.15.4', null),
  },
  {
    name: 'yarn 1 workspaces',
    becomes: { site: 'apps/web/dist' },
    make: workspaces('yarn@1.22.22', null),
  },
  {
    name: 'yarn 4 workspaces',
    becomes: { site: 'apps/web/dist' },
    make: workspaces('yarn@4.9.2', null),
  },
  { name: 'npm workspaces with two sites', becomes: 'choice', make: two },
  // Another Node, tests, what has no site.
  {
    ...viteKind('vanilla', 'npm'),
    name: 'a wished Node (.nvmrc)',
    make: async (at) => {
      await vite(at, 'vanilla');
      at.write({
        '.nvmrc': '22\n',
        'vite.config.js': `export default { define: { made: JSON.stringify(process.version) } };\n`,
        'src/main.js': 'document.title += made;\n',
      });
      await at.lock('npm');
    },
  },
  {
    ...viteKind('vanilla', 'npm'),
    name: 'tests beside the build',
    make: async (at) => {
      await vite(at, 'vanilla');
      at.write({
        'test/fares.test.js': "import test from 'node:test';\ntest('a fare', () => undefined);\n",
      });
      at.manifest((manifest) => {
        manifest.scripts = { ...manifest.scripts, test: 'node --test test/' };
      });
      await at.lock('npm');
    },
  },
  {
    name: 'failing tests beside the build',
    becomes: { fails: /Step tests ended with exit code 1/ },
    make: async (at) => {
      await vite(at, 'vanilla');
      at.write({
        'test/fares.test.js':
          "import test from 'node:test';\nimport assert from 'node:assert';\ntest('a fare', () => assert.equal(5.9, 6));\n",
      });
      at.manifest((manifest) => {
        manifest.scripts = { ...manifest.scripts, test: 'node --test test/' };
      });
      await at.lock('npm');
    },
  },
  {
    name: 'a server',
    becomes: 'nothing',
    make: async (at) => {
      await execa('npx', ['--yes', 'express-generator', '--no-view', '--git', '.'], {
        cwd: at.folder,
      });
      at.write({ public: null });
      await at.lock('npm');
    },
  },
  {
    name: 'a library with tests',
    becomes: 'nothing',
    make: (at) =>
      at.write({
        'package.json': { name: 'tides', version: '1.0.0', scripts: { test: 'node --test' } },
        'index.js': 'exports.tide = () => 1;\n',
        'test/tide.test.js':
          "const test = require('node:test');\ntest('a tide', () => undefined);\n",
      }),
  },
];
