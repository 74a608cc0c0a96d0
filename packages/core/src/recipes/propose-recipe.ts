import { plainRecipe, plainStep, type Recipe, type RecipeStep } from './recipe.ts';

/** What a commit shows of itself: the paths in the project's folder and its package.json, if it parses. */
export interface CommitView {
  readonly paths: readonly string[];
  readonly packageJson: { readonly scripts: Readonly<Record<string, string>> } | null;
}

/** A recipe concluded from a commit, with the files it was concluded from; or why there is none. */
export type Proposal =
  | { readonly recipe: Recipe; readonly because: readonly string[] }
  | { readonly recipe: null; readonly because: readonly string[] };

const packageManagers = [
  { lock: 'package-lock.json', install: 'npm ci', build: 'npm run build' },
  { lock: 'npm-shrinkwrap.json', install: 'npm ci', build: 'npm run build' },
  {
    lock: 'pnpm-lock.yaml',
    install: 'npx --yes pnpm@10 install --frozen-lockfile',
    build: 'npx --yes pnpm@10 run build',
  },
  {
    lock: 'yarn.lock',
    install: 'npx --yes yarn@1 install --frozen-lockfile',
    build: 'npx --yes yarn@1 run build',
  },
] as const;

/**
 * Proposes a recipe for a commit that has no recipe file.
 * Plain pages need no command; a build script gets the command of the package manager whose lock file is
 * there, and its folder stays open until a build has shown it.
 */
export function proposeRecipe(view: CommitView): Proposal {
  const files = new Set(view.paths);
  if (view.packageJson?.scripts.build !== undefined)
    return fromScript(files, view.packageJson.scripts.build);
  if (files.has('index.html')) {
    return {
      recipe: plainRecipe({ steps: [], serve: serve('.', files) }),
      because: ['index.html is in the folder itself, and no package.json names a build script'],
    };
  }
  const folder = ['public', 'site', 'docs', 'www'].find((name) => files.has(`${name}/index.html`));
  if (folder !== undefined) {
    const inside = new Set(
      [...files]
        .filter((path) => path.startsWith(`${folder}/`))
        .map((path) => path.slice(folder.length + 1)),
    );
    return {
      recipe: plainRecipe({ steps: [], serve: serve(folder, inside) }),
      because: [`${folder}/index.html is there, and no package.json names a build script`],
    };
  }
  return {
    recipe: null,
    because: [
      'no package.json names a build script',
      'no index.html stands in the folder, public, site, docs or www',
    ],
  };
}

function fromScript(files: ReadonlySet<string>, script: string): Proposal {
  const manager = packageManagers.find((each) => files.has(each.lock));
  const install: readonly RecipeStep[] =
    manager === undefined
      ? []
      : [plainStep({ name: 'packages', run: [manager.install], network: 'out' })];
  const build = manager?.build ?? 'npm run build';
  const pages = plainStep({
    name: 'pages',
    run: [build],
    after: install.map((step) => step.name),
  });
  return {
    recipe: plainRecipe({
      steps: [...install, pages],
      serve: { site: null, entry: 'index.html', missing: null },
    }),
    because: [
      `package.json has a build script: ${script}`,
      manager === undefined
        ? 'no lock file is there, so nothing is installed before it'
        : `${manager.lock} is there, so its package manager installs first`,
      'the folder is taken from what exists after the first build',
    ],
  };
}

function serve(site: string, files: ReadonlySet<string>): Recipe['serve'] {
  return { site, entry: 'index.html', missing: files.has('404.html') ? '404.html' : null };
}

/** Fills the folder that a build has shown into a recipe that left it open. */
export function withFolder(recipe: Recipe, folder: string, hasMissingPage: boolean): Recipe {
  const missing = recipe.serve.missing ?? (hasMissingPage ? '404.html' : null);
  return { ...recipe, serve: { ...recipe.serve, site: folder, missing } };
}
