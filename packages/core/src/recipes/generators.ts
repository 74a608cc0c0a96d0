import type { CommitView } from './propose-recipe.ts';

/** A site generator or bundler: how it is recognised, what it is run by, and where it writes. */
export interface Generator {
  readonly name: string;
  /** A package that names it, or files of its own, any of which is enough. */
  readonly dependency?: string;
  readonly files?: readonly string[];
  /** The command of one that is no npm package; others are run by the package's build script. */
  readonly command?: string;
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
  { name: 'SvelteKit', dependency: '@sveltejs/kit', folder: 'build' },
  {
    name: 'Astro',
    dependency: 'astro',
    folder: 'dist',
    says: { files: configsOf('astro.config'), form: quoted('outDir') },
  },
  {
    name: 'Eleventy',
    dependency: '@11ty/eleventy',
    folder: '_site',
    says: {
      files: ['.eleventy.js', ...configsOf('eleventy.config')],
      form: quoted('output'),
    },
  },
  { name: 'Docusaurus', dependency: '@docusaurus/core', folder: 'build' },
  { name: 'Gatsby', dependency: 'gatsby', folder: 'public' },
  { name: 'Hexo', dependency: 'hexo', folder: 'public' },
  { name: 'VitePress', dependency: 'vitepress', folder: '.vitepress/dist' },
  {
    name: 'Next',
    dependency: 'next',
    folder: 'out',
    says: { files: configsOf('next.config'), form: quoted('distDir') },
  },
  { name: 'Nuxt', dependency: 'nuxt', folder: '.output/public' },
  { name: 'Create React App', dependency: 'react-scripts', folder: 'build' },
  {
    name: 'Vite',
    dependency: 'vite',
    folder: 'dist',
    says: { files: configsOf('vite.config'), form: quoted('outDir') },
  },
  { name: 'Parcel', dependency: 'parcel', folder: 'dist' },
  {
    name: 'webpack',
    dependency: 'webpack',
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
    name: 'Jekyll',
    files: ['_config.yml'],
    command: 'jekyll build',
    folder: '_site',
    says: { files: ['_config.yml'], form: plain('destination') },
  },
  {
    name: 'MkDocs',
    files: ['mkdocs.yml', 'mkdocs.yaml'],
    command: 'mkdocs build',
    folder: 'site',
    says: { files: ['mkdocs.yml', 'mkdocs.yaml'], form: plain('site_dir') },
  },
  {
    name: 'Pelican',
    files: ['pelicanconf.py'],
    command: 'pelican content',
    folder: 'output',
    says: { files: ['pelicanconf.py'], form: plain('OUTPUT_PATH') },
  },
];

/** Files of a commit that a proposal reads beside package.json. */
export const configFiles: readonly string[] = [
  ...new Set(generators.flatMap((one) => one.says?.files ?? [])),
];

/** A generator that speaks for itself in a commit, where it writes, and what that was concluded from. */
export interface FoundGenerator {
  readonly generator: Generator;
  readonly folder: string;
  readonly because: readonly string[];
}

/** Finds the generator that a commit is built by; undefined when none of the known ones shows. */
export function findGenerator(view: CommitView): FoundGenerator | undefined {
  const files = new Set(view.paths);
  for (const generator of generators) {
    const { name, dependency, says } = generator;
    const isNamed = dependency !== undefined && view.packageJson?.dependencies.includes(dependency);
    const file = generator.files?.find((path) => files.has(path));
    if (isNamed !== true && file === undefined) continue;
    const sign = file === undefined ? `package.json depends on ${dependency}` : `${file} is there`;
    const config = says?.files.find((path) => says.form.test(view.configs[path] ?? ''));
    const said =
      config === undefined ? undefined : says?.form.exec(view.configs[config] ?? '')?.[1];
    const folder = said?.replace(/^\.\//, '').replace(/\/$/, '');
    return {
      generator,
      folder: folder ?? generator.folder,
      because: [
        `${sign}: it is built by ${name}`,
        folder === undefined
          ? `${name} writes ${generator.folder} unless told otherwise`
          : `${config} says that it writes ${folder}`,
      ],
    };
  }
  return undefined;
}
