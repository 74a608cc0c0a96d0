import { below, type FolderView } from './commit-view.ts';

/** A site generator or bundler: how it is recognised, what it is run by, and where it writes. */
export interface Generator {
  readonly name: string;
  /** Packages that name it, or files of its own, any of which is enough. */
  readonly dependencies?: readonly string[];
  readonly files?: readonly string[];
  /** What such a file must say where others use its name too. */
  readonly sure?: RegExp;
  /** The command of one that is no npm package; others are run by a script of the package. */
  readonly command?: string;
  /** Whose packages it is installed with, where the commit names some. */
  readonly language?: 'python' | 'ruby';
  /** What the words of a script that runs it say. */
  readonly runs?: RegExp;
  /** Where it writes unless its configuration says otherwise. */
  readonly folder: string;
  /** How its configuration says it: files, and the form in which the folder stands there. */
  readonly says?: { readonly files: readonly string[]; readonly form: RegExp };
}

const quoted = (key: string): RegExp => new RegExp(`\\b${key}\\s*[:=]\\s*['"]([\\w./-]+)['"]`);
const plain = (key: string): RegExp =>
  new RegExp(`^${key}\\s*[:=]\\s*['"]?([\\w./-]+)['"]?\\s*$`, 'm');
const configsOf = (name: string): readonly string[] =>
  ['js', 'mjs', 'cjs', 'ts', 'mts'].map((ending) => `${name}.${ending}`);

/**
 * The common ones, those that wrap others before those they wrap. Data: each has an example in its test.
 * Where a default folder is from: the documentation of each, as of this version.
 */
export const generators: readonly Generator[] = [
  { name: 'SvelteKit', dependencies: ['@sveltejs/kit'], runs: /\bvite build\b/, folder: 'build' },
  {
    name: 'Astro',
    dependencies: ['astro'],
    runs: /\bastro build\b/,
    folder: 'dist',
    says: { files: configsOf('astro.config'), form: quoted('outDir') },
  },
  {
    name: 'Eleventy',
    dependencies: ['@11ty/eleventy'],
    runs: /\beleventy\b/,
    folder: '_site',
    says: {
      files: ['.eleventy.js', ...configsOf('eleventy.config')],
      form: quoted('output'),
    },
  },
  {
    name: 'Docusaurus',
    dependencies: ['@docusaurus/core'],
    runs: /\bdocusaurus build\b/,
    folder: 'build',
  },
  { name: 'Gatsby', dependencies: ['gatsby'], runs: /\bgatsby build\b/, folder: 'public' },
  { name: 'Hexo', dependencies: ['hexo'], runs: /\bhexo (?:g|generate)\b/, folder: 'public' },
  {
    name: 'VitePress',
    dependencies: ['vitepress'],
    files: configsOf('.vitepress/config'),
    runs: /\bvitepress build\b/,
    folder: '.vitepress/dist',
    says: { files: configsOf('.vitepress/config'), form: quoted('outDir') },
  },
  {
    name: 'VuePress',
    dependencies: ['vuepress'],
    files: configsOf('.vuepress/config'),
    runs: /\bvuepress build\b/,
    folder: '.vuepress/dist',
    says: { files: configsOf('.vuepress/config'), form: quoted('dest') },
  },
  {
    name: 'Next',
    dependencies: ['next'],
    runs: /\bnext (?:build|export)\b/,
    folder: 'out',
    says: { files: configsOf('next.config'), form: quoted('distDir') },
  },
  { name: 'Nuxt', dependencies: ['nuxt'], runs: /\bnux[ti] generate\b/, folder: '.output/public' },
  {
    name: 'Create React App',
    dependencies: ['react-scripts'],
    runs: /\breact-scripts build\b/,
    folder: 'build',
  },
  {
    name: 'Vue CLI',
    dependencies: ['@vue/cli-service'],
    runs: /\bvue-cli-service build\b/,
    folder: 'dist',
    says: { files: ['vue.config.js'], form: quoted('outputDir') },
  },
  {
    name: 'Vite',
    dependencies: ['vite'],
    runs: /\bvite build\b/,
    folder: 'dist',
    says: { files: configsOf('vite.config'), form: quoted('outDir') },
  },
  {
    name: 'Parcel',
    dependencies: ['parcel', 'parcel-bundler'],
    runs: /\bparcel build\b/,
    folder: 'dist',
  },
  {
    name: 'Rsbuild',
    dependencies: ['@rsbuild/core'],
    runs: /\brsbuild build\b/,
    folder: 'dist',
  },
  {
    name: 'webpack',
    dependencies: ['webpack'],
    runs: /\bwebpack\b/,
    folder: 'dist',
    says: { files: configsOf('webpack.config'), form: /path\.\w+\([^)]*['"]([\w./-]+)['"]\s*\)/ },
  },
  {
    name: 'Hugo',
    files: ['hugo.toml', 'hugo.yaml', 'hugo.json', 'config/_default/hugo.toml'],
    command: 'hugo --minify',
    folder: 'public',
    says: { files: ['hugo.toml', 'hugo.yaml'], form: plain('publishDir') },
  },
  {
    name: 'Hugo',
    files: ['config.toml', 'config.yaml', 'config/_default/config.toml'],
    sure: /^(?:baseURL|languageCode|publishDir|disableKinds|theme)\s*[:=]/im,
    command: 'hugo --minify',
    folder: 'public',
    says: { files: ['config.toml', 'config.yaml'], form: plain('publishDir') },
  },
  {
    name: 'Zola',
    files: ['zola.toml', 'config.toml'],
    sure: /^base_url\s*=/m,
    command: 'zola build',
    folder: 'public',
    says: { files: ['zola.toml', 'config.toml'], form: plain('output_dir') },
  },
  {
    name: 'mdBook',
    files: ['book.toml'],
    command: 'mdbook build',
    folder: 'book',
    says: { files: ['book.toml'], form: plain('build-dir') },
  },
  {
    name: 'Jekyll',
    files: ['_config.yml'],
    command: 'jekyll build',
    language: 'ruby',
    folder: '_site',
    says: { files: ['_config.yml'], form: plain('destination') },
  },
  {
    name: 'MkDocs',
    files: ['mkdocs.yml', 'mkdocs.yaml'],
    command: 'mkdocs build',
    language: 'python',
    folder: 'site',
    says: { files: ['mkdocs.yml', 'mkdocs.yaml'], form: plain('site_dir') },
  },
  {
    name: 'Pelican',
    files: ['pelicanconf.py'],
    command: 'pelican content',
    language: 'python',
    folder: 'output',
    says: { files: ['pelicanconf.py'], form: plain('OUTPUT_PATH') },
  },
  {
    name: 'Sphinx',
    files: ['conf.py', 'source/conf.py'],
    sure: /^(?:project|extensions|html_theme)\s*=/m,
    command: 'sphinx-build -b html . _build/html',
    language: 'python',
    folder: '_build/html',
  },
];

/** Names of the files of a commit that a proposal reads beside package.json, wherever it looks for generators. */
export const configFiles: readonly string[] = [
  ...new Set(
    generators.flatMap((one) => [
      ...(one.says?.files ?? []),
      ...(one.sure === undefined ? [] : (one.files ?? [])),
    ]),
  ),
];

/** A generator that speaks for itself in a commit, where it stands and writes, and what that was concluded from. */
export interface FoundGenerator {
  readonly generator: Generator;
  /** The folder that its own files stand in. */
  readonly base: string;
  readonly folder: string;
  readonly because: readonly string[];
}

/** Folders in which a generator's files are no sign: what is tried, shown or taken along there is not the project. */
const aside =
  /(?:^|\/)(?:node_modules|vendor|examples?|fixtures?|__\w+__|tests?|e2e|templates?|benchmarks?|demo|\.git\w*)(?:\/|$)/i;

/** Whether what lies in a folder is the project's own work. */
export function isOwnWork(folder: string): boolean {
  return !aside.test(folder);
}

/** Finds the generator that a folder is built by; undefined when none of the known ones shows. */
export function findGenerator(view: FolderView): FoundGenerator | undefined {
  const named = view.packages['']?.dependencies ?? [];
  for (const generator of generators) {
    const dependency = generator.dependencies?.find((one) => named.includes(one));
    const file = ownFile(generator, view);
    if (generator.dependencies !== undefined ? dependency === undefined : file === null) continue;
    return foundAt(generator, view, file, dependency ?? null);
  }
  return undefined;
}

function foundAt(
  generator: Generator,
  view: FolderView,
  file: OwnFile | null,
  dependency: string | null,
): FoundGenerator {
  const { name, says } = generator;
  const base = file?.base ?? '';
  const sign =
    dependency !== null ? `package.json depends on ${dependency}` : `${file?.path} is there`;
  const textOf = (path: string): string => view.configs[below(base, path)] ?? '';
  const config = says?.files.find((path) => says.form.test(textOf(path)));
  const said = config === undefined ? undefined : says?.form.exec(textOf(config))?.[1];
  const written = said?.replace(/^\.\//, '').replace(/\/$/, '');
  const folder =
    written?.startsWith('../') === true
      ? outOf(base, written)
      : below(base, written ?? generator.folder);
  return {
    generator,
    base,
    folder,
    because: [
      `${sign}: it is built by ${name}`,
      config === undefined
        ? `${name} writes ${folder} unless told otherwise`
        : `${below(base, config)} says that it writes ${folder}`,
    ],
  };
}

/** A path that leads up from a folder, as one from above; what leads out of all is where it began. */
function outOf(base: string, path: string): string {
  const parts = base.split('/').filter((part) => part !== '');
  for (const part of path.split('/')) {
    if (part === '..') parts.pop();
    else if (part !== '.' && part !== '') parts.push(part);
  }
  return parts.join('/');
}

interface OwnFile {
  readonly path: string;
  readonly base: string;
}

/** A file of a generator's own: in the folder itself, or in one folder of it. */
function ownFile(generator: Generator, view: FolderView): OwnFile | null {
  const { files = [], sure } = generator;
  const isSure = (path: string): boolean =>
    sure === undefined || sure.test(view.configs[path] ?? '');
  const present = new Set(view.paths);
  const own = files.find((file) => present.has(file) && isSure(file));
  if (own !== undefined) return { path: own, base: own.endsWith('/conf.py') ? 'source' : '' };
  for (const path of view.paths) {
    const base = path.slice(0, path.indexOf('/'));
    const inner = path.slice(base.length + 1);
    if (base !== '' && files.includes(inner) && isOwnWork(base) && isSure(path))
      return { path, base: inner.startsWith('source/') ? `${base}/source` : base };
  }
  return null;
}
