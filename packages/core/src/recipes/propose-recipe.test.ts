import assert from 'node:assert/strict';
import test from 'node:test';
import type { CommitView, FolderView, PackageView } from './commit-view.ts';
import { generators } from './generators.ts';
import { type Proposal, proposeRecipe } from './propose-recipe.ts';
import type { RecipeStep } from './recipe.ts';

type Files = Readonly<Record<string, string | Partial<PackageView>>>;

const aPackage = (more: Partial<PackageView>): PackageView => ({
  name: null,
  scripts: {},
  dependencies: [],
  hasLocal: false,
  workspaces: [],
  packageManager: null,
  ...more,
});

/** A folder of a commit: manifests as objects, all else as texts. */
function folder(files: Files): FolderView {
  const packages: Record<string, PackageView> = {};
  const configs: Record<string, string> = {};
  for (const [path, content] of Object.entries(files)) {
    if (typeof content === 'string') configs[path] = content;
    else packages[path.replace(/\/?package\.json$/, '')] = aPackage(content);
  }
  return { paths: Object.keys(files), packages, configs };
}
const view = (files: Files, more: Partial<CommitView> = {}): CommitView => ({
  ...folder(files),
  node: null,
  around: null,
  ...more,
});
const propose = (files: Files, more: Partial<CommitView> = {}): Proposal =>
  proposeRecipe(view(files, more));
const stepOf = ({ recipe }: Proposal, name: string): RecipeStep | undefined =>
  recipe?.steps.find((step) => step.name === name);
const site = ({ recipe }: Proposal): string | null | undefined => recipe?.serve?.site;
const vite: Partial<PackageView> = { scripts: { build: 'vite build' }, dependencies: ['vite'] };

test('plain pages need no command', () => {
  const proposal = propose({ 'index.html': '', '404.html': '', 'style.css': '' });
  assert.deepEqual(proposal.recipe?.steps, []);
  assert.deepEqual(proposal.recipe?.serve, { site: '.', entry: 'index.html', missing: '404.html' });
  assert.equal(site(propose({ 'README.md': '', 'public/index.html': '' })), 'public');
});

test('what is installed is kept until the lock file changes, unless scripts of the project run with it', () => {
  const npm = propose({ 'package.json': vite, 'package-lock.json': '', '.npmrc': '' });
  const packages = stepOf(npm, 'packages');
  assert.deepEqual(packages?.run, ['npm ci --no-audit --no-fund']);
  assert.deepEqual(packages?.reads, ['package.json', 'package-lock.json', '.npmrc']);
  assert.deepEqual([packages?.writes, packages?.network], [['node_modules'], 'out']);
  const pages = stepOf(npm, 'pages');
  assert.deepEqual([pages?.run, pages?.after], [['npm run build'], ['packages']]);
  assert.deepEqual([pages?.reads, pages?.network], [null, 'none']);
  for (const script of ['postinstall', 'prepare']) {
    const open = propose({
      'package.json': { ...vite, scripts: { build: 'vite build', [script]: 'patch-package' } },
      'package-lock.json': '',
    });
    assert.equal(stepOf(open, 'packages')?.reads, null);
    assert.ok(open.because.some((why) => why.includes(script)));
  }
  const local = propose({ 'package.json': { ...vite, hasLocal: true }, 'package-lock.json': '' });
  assert.equal(stepOf(local, 'packages')?.reads, null);
});

test('each package manager is taken in the version that the commit means', () => {
  const cases: readonly (readonly [Files, string, Record<string, string>, string])[] = [
    [{ 'pnpm-lock.yaml': "lockfileVersion: '6.0'\n" }, '', { pnpm: '8' }, 'pnpm install --frozen'],
    [{ 'pnpm-lock.yaml': "lockfileVersion: '9.0'\n" }, '', { pnpm: '10' }, 'pnpm install --frozen'],
    [{ 'pnpm-lock.yaml': '' }, 'pnpm@9.1.0+sha512.abc', { pnpm: '9.1.0' }, 'pnpm install'],
    [{ 'yarn.lock': '# yarn lockfile v1\n' }, '', { yarn: '1' }, 'yarn install --frozen-lockfile'],
    [{ 'yarn.lock': '' }, 'yarn@1.22.22', { yarn: '1.22.22' }, 'yarn install --frozen-lockfile'],
    [{ 'yarn.lock': '__metadata:\n  version: 4\n' }, '', { yarn: '2' }, 'yarn install --immutable'],
    [{ 'yarn.lock': '__metadata:\n  version: 6\n' }, '', { yarn: '3' }, 'yarn install --immutable'],
    [{ 'yarn.lock': '__metadata:\n  version: 8\n' }, '', { yarn: '4' }, 'yarn install --immutable'],
    [
      { 'yarn.lock': '', '.yarnrc.yml': 'yarnPath: .yarn/releases/yarn-3.6.4.cjs\n' },
      '',
      { yarn: '3.6.4' },
      'yarn install --immutable',
    ],
  ];
  for (const [files, packageManager, tools, install] of cases) {
    const one = propose({ ...files, 'package.json': { ...vite, packageManager } });
    assert.deepEqual({ ...one.recipe?.tools }, { node: null, pnpm: null, yarn: null, ...tools });
    assert.ok(stepOf(one, 'packages')?.run[0]?.startsWith(install), install);
    // Nothing is fetched by a step without network.
    assert.ok(!JSON.stringify(one.recipe).includes('npx'));
  }
  const linked = propose({
    'package.json': { ...vite, packageManager: 'yarn@4.5.0' },
    'yarn.lock': '',
    '.yarnrc.yml': 'nodeLinker: node-modules\n',
  });
  assert.deepEqual(stepOf(linked, 'packages')?.writes, ['node_modules']);
  assert.equal(
    stepOf(linked, 'pages')?.sets.YARN_INSTALL_STATE_PATH,
    './node_modules/.install-state.gz',
  );
  const plugged = propose({
    'package.json': { ...vite, packageManager: 'yarn@4.5.0' },
    'yarn.lock': '',
  });
  assert.equal(stepOf(plugged, 'packages')?.writes, null);
});

test('without a lock file it is installed, with the line that makes one', () => {
  const bare = propose({ 'package.json': vite });
  assert.deepEqual(stepOf(bare, 'packages')?.run, ['npm install --no-audit --no-fund']);
  assert.match(bare.warnings[0] ?? '', /run npm install and commit package-lock\.json/);
  const none = propose({ 'package.json': { scripts: { build: 'node build.js' } } });
  assert.deepEqual(
    none.recipe?.steps.map((step) => step.name),
    ['pages'],
  );
});

test('tests are a step beside the one that builds; what npm writes for want of any is none', () => {
  const scripts = { build: 'vite build', test: 'vitest run' };
  const tested = propose({ 'package.json': { ...vite, scripts }, 'package-lock.json': '' });
  const tests = stepOf(tested, 'tests');
  assert.deepEqual([tests?.run, tests?.after], [['npm test'], ['packages']]);
  assert.deepEqual([tests?.withinMs, tests?.failure], [600_000, 'ends']);
  assert.deepEqual(stepOf(tested, 'pages')?.after, ['packages']);
  const placeholder = 'echo "Error: no test specified" && exit 1';
  const none = propose({
    'package.json': { ...vite, scripts: { build: 'vite build', test: placeholder } },
  });
  assert.equal(stepOf(none, 'tests'), undefined);
  const pages = propose({ 'package.json': { scripts: { test: 'node --test' } }, 'index.html': '' });
  assert.deepEqual([site(pages), stepOf(pages, 'tests')?.run], ['.', ['npm test']]);
});

test('what publishes nothing is tried all the same', () => {
  const library = propose({
    'package.json': { scripts: { test: 'node --test', start: 'node server.js' } },
    'server.js': '',
  });
  assert.equal(library.recipe?.serve, null);
  assert.deepEqual(stepOf(library, 'tests')?.run, ['npm test']);
  assert.match(library.because[0] ?? '', /nothing here looks like a site/);
  assert.deepEqual(propose({ 'README.md': '' }).recipe?.steps, []);
});

test('every known generator is told by its own sign, and writes where it says or by default', () => {
  for (const generator of generators) {
    const { dependencies, files, folder: written, sure } = generator;
    const text = sure === undefined ? '' : (signs[generator.name] ?? '');
    const seen = propose(
      dependencies === undefined
        ? { [files?.[0] ?? '']: text }
        : {
            'package.json': { scripts: { build: 'x' }, dependencies: [dependencies[0] ?? ''] },
            'package-lock.json': '',
          },
    );
    assert.equal(site(seen), written, generator.name);
    assert.ok(seen.because.some((why) => why.includes(generator.name)));
  }
  const told = (path: string, text: string, dependency?: string) =>
    site(
      propose({
        [path]: text,
        ...(dependency === undefined
          ? {}
          : { 'package.json': { scripts: { build: 'x' }, dependencies: [dependency] } }),
      }),
    );
  assert.equal(told('vite.config.ts', "build: { outDir: './www/' }", 'vite'), 'www');
  assert.equal(told('eleventy.config.js', 'dir: { output: "pages" }', '@11ty/eleventy'), 'pages');
  assert.equal(told('webpack.config.js', "path: path.resolve(__dirname, 'web')", 'webpack'), 'web');
  assert.equal(told('hugo.toml', 'title = "x"\npublishDir = "www"\n'), 'www');
  assert.equal(told('mkdocs.yml', 'site_name: x\nsite_dir: www\n'), 'www');
  assert.equal(told('docs/.vitepress/config.mts', '', 'vitepress'), 'docs/.vitepress/dist');
  assert.equal(told('docs/.vitepress/config.mts', "outDir: '../public'", 'vitepress'), 'public');
  // The name alone is no sign where others use it too.
  assert.equal(told('config.toml', '[server]\nport = 80\n'), undefined);
  assert.equal(told('config.toml', 'baseURL = "/"\n'), 'public');
  assert.equal(told('examples/mkdocs.yml', 'site_name: x'), undefined);
  assert.equal(told('docs/mkdocs.yml', 'site_name: x'), 'docs/site');
});
const signs: Readonly<Record<string, string>> = {
  Hugo: 'baseURL = "/"',
  Zola: 'base_url = "/"',
  Sphinx: "project = 'Tides'",
};

test('the script that runs the generator comes before one that is only named so', () => {
  const scripts = { build: 'tsup src/index.ts', 'docs:build': 'vitepress build docs' };
  const docs = propose({
    'package.json': { scripts, dependencies: ['vitepress', 'tsup'] },
    'package-lock.json': '',
    'docs/.vitepress/config.ts': '',
  });
  assert.deepEqual(stepOf(docs, 'pages')?.run, ['npm run docs:build']);
  assert.equal(site(docs), 'docs/.vitepress/dist');
  for (const script of ['docs:build', 'build:site', 'generate', 'export']) {
    const one = propose({ 'package.json': { scripts: { [script]: 'node write.js' } } });
    assert.deepEqual(stepOf(one, 'pages')?.run, [`npm run ${script}`]);
    assert.equal(site(one), null);
  }
});

test('of a repository with several packages the one site is built, after what it needs', () => {
  const files = {
    'package.json': { workspaces: ['apps/*', 'packages/*'] },
    'package-lock.json': '',
    'apps/web/package.json': { ...vite, name: 'web', dependencies: ['vite', 'shared'] },
    'apps/web/index.html': '',
    'packages/shared/package.json': { name: 'shared', scripts: { build: 'tsc' } },
  };
  const one = propose(files);
  assert.deepEqual(stepOf(one, 'pages')?.run, [
    'npm run build --workspace packages/shared',
    'npm run build --workspace apps/web',
  ]);
  assert.equal(site(one), 'apps/web/dist');
  assert.deepEqual(stepOf(one, 'packages')?.reads, [
    'package.json',
    'apps/web/package.json',
    'packages/shared/package.json',
    'package-lock.json',
  ]);
  assert.deepEqual(stepOf(one, 'packages')?.writes, [
    'node_modules',
    'apps/web/node_modules',
    'packages/shared/node_modules',
  ]);
  // The root's own script builds all of it in an order of its own.
  const rooted = propose({
    ...files,
    'package.json': { workspaces: ['apps/*', 'packages/*'], scripts: { build: 'make all' } },
  });
  assert.deepEqual(stepOf(rooted, 'pages')?.run, ['npm run build']);
  assert.equal(site(rooted), 'apps/web/dist');
});

test('several sites are several answers, each with the command that takes it', () => {
  const several = propose({
    'package.json': { workspaces: ['sites/*'] },
    'pnpm-lock.yaml': '',
    'sites/desk/package.json': { ...vite, name: 'desk' },
    'sites/signs/package.json': { ...vite, name: 'signs' },
    'sites/signs/test/fixture/package.json': vite,
  });
  assert.equal(several.recipe, null);
  assert.deepEqual(
    several.candidates.map(({ name, recipe }) => [name, recipe.serve?.site]),
    [
      ['sites/desk', 'sites/desk/dist'],
      ['sites/signs', 'sites/signs/dist'],
    ],
  );
  assert.deepEqual(several.candidates[0]?.recipe.steps[1]?.run, [
    'pnpm --filter ./sites/desk run build',
  ]);
  assert.match(several.because[1] ?? '', /accept-recipe PROJECT --candidate sites\/desk takes it/);
});

test('names of folders are words of the commands that are proposed, whatever a commit calls them', () => {
  const commands = (manager: Files, name: string) =>
    propose({
      'package.json': { workspaces: ['sites/*'] },
      ...manager,
      [`sites/${name}/package.json`]: vite,
    }).recipe?.steps.at(-1)?.run;
  assert.deepEqual(commands({ 'pnpm-lock.yaml': '' }, '$(id); x'), [
    "pnpm --filter './sites/$(id); x' run build",
  ]);
  assert.deepEqual(commands({ 'package-lock.json': '' }, "pilot's"), [
    "npm run build --workspace 'sites/pilot'\\''s'",
  ]);
  assert.deepEqual(
    propose({ '-a b/requirements.txt': 'mkdocs', '-a b/mkdocs.yml': 'site_name: Harbour' }).recipe
      ?.steps[0]?.run,
    [
      'python3 -m venv --system-site-packages .venv',
      ".venv/bin/pip install --disable-pip-version-check -r './-a b/requirements.txt'",
    ],
  );
});

test('a project that is one folder of a repository installs by the root’s lock file', () => {
  const root = folder({
    'package.json': { workspaces: ['apps/*', 'packages/*'] },
    'package-lock.json': '',
    'tsconfig.base.json': '',
    'apps/web/package.json': { ...vite, name: 'web', dependencies: ['vite', 'shared'] },
    'packages/shared/package.json': { name: 'shared', scripts: { build: 'tsc' } },
  });
  const web = propose(
    {
      'package.json': { ...vite, name: 'web', dependencies: ['vite', 'shared'] },
      'index.html': '',
    },
    { around: { ...root, folder: 'apps/web' } },
  );
  assert.deepEqual(stepOf(web, 'packages')?.run, ['cd ../.. && npm ci --no-audit --no-fund']);
  assert.deepEqual(stepOf(web, 'packages')?.reads?.slice(0, 2), [
    '/package.json',
    '/apps/web/package.json',
  ]);
  assert.deepEqual(stepOf(web, 'pages')?.run, [
    'cd ../.. && npm run build --workspace packages/shared',
    'npm run build',
  ]);
  assert.equal(site(web), 'dist');
  assert.deepEqual(web.recipe?.beyond, [
    '/package.json',
    '/package-lock.json',
    '/tsconfig.base.json',
    '/apps',
    '/packages',
  ]);
});

test('a site in a folder of its own, with a lock file of its own, is built there', () => {
  const docs = propose({
    'README.md': '',
    'website/package.json': {
      scripts: { build: 'docusaurus build' },
      dependencies: ['@docusaurus/core'],
    },
    'website/package-lock.json': '',
  });
  assert.deepEqual(
    [stepOf(docs, 'packages')?.in, stepOf(docs, 'packages')?.reads, site(docs)],
    ['website', ['website/package.json', 'website/package-lock.json'], 'website/build'],
  );
});

test('the Node that is wished stands in the recipe, and one that cannot be had is told', () => {
  const wish = { from: '.nvmrc', text: 'v22', line: 22, isMet: true };
  const met = propose({ 'package.json': vite }, { node: wish });
  assert.equal(met.recipe?.tools.node, 22);
  assert.ok(met.because.includes('.nvmrc wishes Node v22, so it is built with 22'));
  const unmet = propose({ 'package.json': vite }, { node: { ...wish, line: 20, isMet: false } });
  assert.ok(unmet.warnings.some((why) => why.includes('20 is taken')));
  assert.equal(propose({ 'hugo.toml': '' }, { node: wish }).recipe?.tools.node, null);
});

test('sites of other languages install what the commit names', () => {
  const docs = propose({ 'docs/mkdocs.yml': 'site_name: x', 'docs/requirements.txt': '' });
  assert.deepEqual(
    stepOf(docs, 'packages')?.run[1],
    '.venv/bin/pip install --disable-pip-version-check -r docs/requirements.txt',
  );
  assert.deepEqual(
    [stepOf(docs, 'pages')?.run, stepOf(docs, 'pages')?.in, site(docs)],
    [['. ../.venv/bin/activate && python3 -m mkdocs build'], 'docs', 'docs/site'],
  );
  const ruby = propose({ '_config.yml': '', Gemfile: '', 'Gemfile.lock': '' });
  assert.match(
    stepOf(ruby, 'pages')?.run[0] ?? '',
    /^export GEM_HOME=.* && bundle exec jekyll build$/,
  );
  assert.deepEqual(stepOf(ruby, 'packages')?.writes, ['.gems']);
});

test('a near miss in the name is told', () => {
  for (const path of ['vaquero.yml', '.vaquero.yaml', 'vaquero.json'])
    assert.match(
      propose({ [path]: '', 'index.html': '' }).because[0] ?? '',
      /what is read is vaquero\.yaml/,
    );
});
