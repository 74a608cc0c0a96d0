import { shellWord } from '../shell-word.ts';
import { below, type FolderView, type PackageView } from './commit-view.ts';
import { matchesPath } from './glob.ts';
import type { Tools } from './recipe.ts';

/** How the packages of a folder are installed, and how its scripts are run. */
export interface Manager {
  readonly name: 'npm' | 'pnpm' | 'yarn';
  readonly install: string;
  /** The command of a script of the folder's own package, or of a workspace's. */
  readonly script: (name: string, workspace: Workspace | null) => string;
  /** The manager itself, where the machine has none: npm comes with Node. */
  readonly tools: Partial<Tools>;
  /** Settings that installing and running need alike. */
  readonly sets: Readonly<Record<string, string>>;
  readonly cache: string;
  /** The files beside the manifests that decide what is installed. */
  readonly files: readonly string[];
  /** Null where it writes more than folders of packages, so that nothing of it can be handed on. */
  readonly writes: readonly string[] | null;
  readonly because: readonly string[];
  readonly warnings: readonly string[];
}

/** A package of a repository with several: where it lies, and its name. */
export interface Workspace {
  readonly folder: string;
  readonly name: string | null;
}

const locks = {
  'package-lock.json': 'npm',
  'npm-shrinkwrap.json': 'npm',
  'pnpm-lock.yaml': 'pnpm',
  'yarn.lock': 'yarn',
} as const;
const lockNames = Object.keys(locks) as readonly (keyof typeof locks)[];

/** Files that say how packages are installed, beside the lock files of npm. */
export const managerFiles = [
  'pnpm-lock.yaml',
  'pnpm-workspace.yaml',
  'yarn.lock',
  '.yarnrc.yml',
  'requirements.txt',
] as const;

/** Own scripts that installing runs: what those read nobody has said. */
const atInstall = ['preinstall', 'install', 'postinstall', 'prepare'];

/** Whether a folder has a lock file of its own. */
export function hasLock(view: FolderView): boolean {
  return lockNames.some((name) => view.paths.includes(name));
}

/** Concludes the package manager of a folder from its lock file and from what its package.json names. */
export function managerOf(view: FolderView): Manager {
  const lock = lockNames.find((name) => view.paths.includes(name)) ?? null;
  const said = /^(npm|pnpm|yarn)@(\d[\w.-]*)/.exec(view.packages['']?.packageManager ?? '');
  const name = lock === null ? ((said?.[1] as Manager['name']) ?? 'npm') : locks[lock];
  const version = said?.[1] === name ? (said[2] ?? null) : null;
  const because = [
    ...(version === null ? [] : [`package.json names ${name} ${version}`]),
    ...(lock === null ? [] : [`${lock} is there, so ${name} installs what it names`]),
  ];
  const warnings =
    lock === null
      ? [
          `no lock file is there, so every build may install other packages: run ${name} install and commit ${lockOf(name)}`,
        ]
      : [];
  const base = { because, warnings };
  if (name === 'npm') return npm(view, lock, base);
  return name === 'pnpm' ? pnpm(view, version, lock, base) : yarn(view, version, lock, base);
}

function lockOf(name: Manager['name']): string {
  return lockNames.find((lock) => locks[lock] === name) ?? 'package-lock.json';
}

type Base = Pick<Manager, 'because' | 'warnings'>;

function npm(view: FolderView, lock: string | null, base: Base): Manager {
  return {
    ...base,
    name: 'npm',
    install: lock === null ? 'npm install --no-audit --no-fund' : 'npm ci --no-audit --no-fund',
    script: (script, workspace) => {
      const run = script === 'test' ? 'npm test' : `npm run ${script}`;
      return workspace === null ? run : `${run} --workspace ${shellWord(workspace.folder)}`;
    },
    tools: {},
    sets: {},
    cache: '~/.npm',
    files: there(view, [lock, '.npmrc', 'patches']),
    writes: packageFolders(view),
  };
}

function pnpm(view: FolderView, version: string | null, lock: string | null, base: Base): Manager {
  const format = /^lockfileVersion:\s*'?(\d+)/m.exec(view.configs['pnpm-lock.yaml'] ?? '')?.[1];
  const line = format === '5' ? '7' : format === '6' ? '8' : '10';
  return {
    ...base,
    name: 'pnpm',
    install: lock === null ? 'pnpm install --no-frozen-lockfile' : 'pnpm install --frozen-lockfile',
    script: (script, workspace) =>
      workspace === null
        ? `pnpm run ${script}`
        : `pnpm --filter ${shellWord(`./${workspace.folder}`)} run ${script}`,
    tools: { pnpm: version ?? line },
    sets: {},
    cache: '~/.local/share/pnpm',
    files: there(view, [lock, 'pnpm-workspace.yaml', '.npmrc', '.pnpmfile.cjs', 'patches']),
    writes: packageFolders(view),
  };
}

function yarn(view: FolderView, version: string | null, lock: string | null, base: Base): Manager {
  const settings = view.configs['.yarnrc.yml'];
  const metadata = /^__metadata:\s*\n\s+version:\s*(\d+)/m.exec(
    view.configs['yarn.lock'] ?? '',
  )?.[1];
  const isFirst =
    version === null ? metadata === undefined && settings === undefined : /^[01]\./.test(version);
  return isFirst
    ? firstYarn(view, version, lock, base)
    : laterYarn(view, version ?? releaseOf(settings) ?? lineOf(metadata), lock, base);
}

/** The release that the settings name, as its file is called. */
function releaseOf(settings: string | undefined): string | null {
  return /^yarnPath:\s*"?\S*yarn-(\d[\w.-]*?)\.c?js"?\s*$/m.exec(settings ?? '')?.[1] ?? null;
}

/** The line whose lock files have a format. */
function lineOf(metadata: string | undefined): string {
  const format = metadata === undefined ? 8 : Number(metadata);
  return format >= 8 ? '4' : format >= 5 ? '3' : '2';
}

const yarnScript: Manager['script'] = (script, workspace) =>
  workspace === null
    ? `yarn run ${script}`
    : `yarn workspace ${shellWord(workspace.name ?? workspace.folder)} run ${script}`;

function firstYarn(
  view: FolderView,
  version: string | null,
  lock: string | null,
  base: Base,
): Manager {
  return {
    ...base,
    name: 'yarn',
    install: lock === null ? 'yarn install --no-lockfile' : 'yarn install --frozen-lockfile',
    script: yarnScript,
    tools: { yarn: version ?? '1' },
    sets: {},
    cache: '~/.cache/yarn',
    files: there(view, [lock, '.npmrc', '.yarnrc', 'patches']),
    writes: packageFolders(view),
  };
}

function laterYarn(view: FolderView, version: string, lock: string | null, base: Base): Manager {
  const isLinked = /^nodeLinker:\s*"?(?:node-modules|pnpm)"?\s*$/m.test(
    view.configs['.yarnrc.yml'] ?? '',
  );
  return {
    warnings: base.warnings,
    because: [
      ...base.because,
      ...(isLinked
        ? []
        : ['it links packages by a file of its own (.pnp.cjs), not by node_modules']),
    ],
    name: 'yarn',
    install: lock === null ? 'yarn install --no-immutable' : 'yarn install --immutable',
    script: yarnScript,
    tools: { yarn: version },
    sets: {
      YARN_ENABLE_TELEMETRY: '0',
      ...(isLinked
        ? { YARN_INSTALL_STATE_PATH: './node_modules/.install-state.gz' }
        : // What is linked must be where the next step looks for it.
          { YARN_ENABLE_GLOBAL_CACHE: 'false' }),
    },
    cache: '~/.yarn/berry',
    files: there(view, [lock, '.yarnrc.yml', '.npmrc', '.yarn', 'patches']),
    writes: isLinked ? packageFolders(view) : null,
  };
}

/** Folders of packages that installing fills: the root's, and those that workspaces may have beside it. */
function packageFolders(view: FolderView): readonly string[] | null {
  const folders = ['', ...workspacesOf(view).map((one) => one.folder)];
  return folders.length > 60 ? null : folders.map((folder) => below(folder, 'node_modules'));
}

/** Those of some paths that are there, as files or as folders. */
function there(view: FolderView, names: readonly (string | null)[]): readonly string[] {
  return names.filter(
    (name): name is string =>
      name !== null && view.paths.some((path) => path === name || path.startsWith(`${name}/`)),
  );
}

/** The packages of a repository with several, as its root says them. */
export function workspacesOf(view: FolderView): readonly Workspace[] {
  const known = spaces.get(view) ?? findWorkspaces(view);
  spaces.set(view, known);
  return known;
}

const spaces = new WeakMap<FolderView, readonly Workspace[]>();

function findWorkspaces(view: FolderView): readonly Workspace[] {
  const patterns = view.packages['']?.workspaces ?? [];
  const [wanted, unwanted] = [true, false].map((isWanted) =>
    patterns
      .filter((pattern) => !pattern.startsWith('!') === isWanted)
      .map((pattern) => pattern.replace(/^!?(?:\.\/)?/, '').replace(/\/$/, '')),
  );
  const isMet = (pattern: string, folder: string): boolean =>
    matchesPath(pattern, folder) &&
    (pattern.includes('**') || folder.split('/').length === pattern.split('/').length);
  return Object.entries(view.packages).flatMap(([folder, { name }]) =>
    folder !== '' &&
    wanted?.some((pattern) => isMet(pattern, folder)) === true &&
    unwanted?.some((pattern) => isMet(pattern, folder)) !== true
      ? [{ folder, name }]
      : [],
  );
}

/** The scripts of its own that installing runs, with the packages that have them. */
export function installScripts(packages: readonly PackageView[]): readonly string[] {
  return [
    ...new Set(
      packages.flatMap(({ scripts }) => atInstall.filter((name) => scripts[name] !== undefined)),
    ),
  ];
}
