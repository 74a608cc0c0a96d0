import { type FoundGenerator, findGenerator } from './generators.ts';
import { matchesPath } from './glob.ts';
import { plainRecipe, plainStep, type Recipe, type RecipeStep, type Serve } from './recipe.ts';

/** What a commit shows of itself: the paths in the project's folder, its package.json, if it parses, and what generators are told. */
export interface CommitView {
  readonly paths: readonly string[];
  readonly packageJson: {
    readonly scripts: Readonly<Record<string, string>>;
    readonly dependencies: readonly string[];
    readonly workspaces: readonly string[];
  } | null;
  /** Texts of files that generators are told by, by their paths. */
  readonly configs: Readonly<Record<string, string>>;
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
  const near = view.paths.find((path) => nearMiss.test(path));
  if (near !== undefined)
    return {
      recipe: null,
      because: [
        `${near} is there, but what is read is vaquero.yaml in the project’s folder: rename it`,
      ],
    };
  const found = findGenerator(view);
  if (view.packageJson?.scripts.build !== undefined)
    return fromScript(files, view.packageJson.scripts.build, found);
  if (found?.generator.command !== undefined) return fromCommand(found, found.generator.command);
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
  const sites = workspaceSites(view);
  if (sites.length > 0)
    return {
      recipe: null,
      because: [
        `package.json has workspaces, and a site may stand in ${sites.join(' or ')}`,
        'make a project for each, with that folder',
      ],
    };
  return {
    recipe: null,
    because: [
      'no package.json names a build script',
      'no index.html stands in the folder, public, site, docs or www',
    ],
  };
}

/** Names that people write when they mean the recipe's. */
const nearMiss =
  /^(?:\.?vaquero\.(?:yml|json|toml)|\.vaquero\.yaml|Vaquero\.ya?ml|\.github\/vaquero\.ya?ml|vaquero\.yaml\.\w+)$/;

function fromCommand(found: FoundGenerator, command: string): Proposal {
  return {
    recipe: plainRecipe({
      steps: [plainStep({ name: 'pages', run: [command] })],
      serve: { site: found.folder, entry: 'index.html', missing: null },
    }),
    because: found.because,
  };
}

/** Folders of a repository with several packages that have an entry page or a build of their own. */
function workspaceSites({ packageJson, paths }: CommitView): readonly string[] {
  const patterns = packageJson?.workspaces ?? [];
  const folders = paths.flatMap((path) =>
    /\/(?:package\.json|index\.html)$/.test(path) ? [path.replace(/\/[^/]+$/, '')] : [],
  );
  return [...new Set(folders)].filter((folder) =>
    patterns.some(
      (pattern) =>
        matchesPath(pattern, folder) && folder.split('/').length === pattern.split('/').length,
    ),
  );
}

function fromScript(
  files: ReadonlySet<string>,
  script: string,
  found: FoundGenerator | undefined,
): Proposal {
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
      serve: { site: found?.folder ?? null, entry: 'index.html', missing: null },
    }),
    because: [
      `package.json has a build script: ${script}`,
      manager === undefined
        ? 'no lock file is there, so nothing is installed before it'
        : `${manager.lock} is there, so its package manager installs first`,
      ...(found?.because ?? ['the folder is taken from what exists after the first build']),
    ],
  };
}

function serve(site: string, files: ReadonlySet<string>): Serve {
  return { site, entry: 'index.html', missing: files.has('404.html') ? '404.html' : null };
}

/** Fills the folder that a build has shown into a recipe that left it open. */
export function withFolder(recipe: Recipe, folder: string, hasMissingPage: boolean): Recipe {
  if (recipe.serve === null) return recipe;
  const missing = recipe.serve.missing ?? (hasMissingPage ? '404.html' : null);
  return { ...recipe, serve: { ...recipe.serve, site: folder, missing } };
}
