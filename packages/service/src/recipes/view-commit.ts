import {
  type CommitId,
  type CommitView,
  configFiles,
  controlFault,
  type FolderView,
  isOwnWork,
  managerFiles,
  type PackageView,
} from '@vaquero/core';
import { parse as parseYaml } from 'yaml';
import { z } from 'zod';
import { fileIn, pathsIn } from '../repositories/bare-repository.ts';
import { wishedNode } from './wished-node.ts';

/** So much is read of one commit; a repository with more says what it means by a recipe. */
const mostRead = { manifests: 60, configs: 30, locks: 6 } as const;
const mostPaths = 20_000;
const largestManifest = 256 << 10;
/** Of a configuration the beginning is looked through: some of the forms take the square of its length. */
const configHead = 16 << 10;
const largestConfig = 64 << 10;
const largestLock = 8 << 20;
/** What a lock file says of itself stands at its top. */
const lockHead = 4096;
/** Manifests and files of generators are looked for so deep. */
const deepest = 4;

const names = z.record(z.string(), z.unknown()).default({}).catch({});
const packageSchema = z
  .object({
    name: z.string().nullable().default(null).catch(null),
    scripts: z.record(z.string(), z.string()).default({}).catch({}),
    dependencies: names,
    devDependencies: names,
    optionalDependencies: names,
    workspaces: z
      .union([z.array(z.string()), z.object({ packages: z.array(z.string()) })])
      .optional()
      .catch(undefined),
    packageManager: z.string().nullable().default(null).catch(null),
    engines: z.object({ node: z.string() }).optional().catch(undefined),
  })
  .transform(({ name, scripts, workspaces, packageManager, engines, ...lists }) => {
    const all = { ...lists.optionalDependencies, ...lists.devDependencies, ...lists.dependencies };
    return {
      name,
      scripts,
      dependencies: Object.keys(all),
      hasLocal: Object.values(all).some(
        (one) => typeof one === 'string' && /^(?:file|link|portal):/.test(one),
      ),
      workspaces: Array.isArray(workspaces) ? workspaces : (workspaces?.packages ?? []),
      packageManager,
      engines: engines?.node ?? null,
    };
  });
type Manifest = z.output<typeof packageSchema>;

/** Reads what a commit shows of itself in a folder of its repository, as a proposal looks at it. */
export async function viewCommit(
  directory: string,
  commit: CommitId,
  folder: string,
): Promise<CommitView> {
  const [own, around] = await Promise.all([
    viewFolder(directory, commit, folder),
    folder === '' ? null : viewFolder(directory, commit, ''),
  ]);
  const read = (path: string): Promise<string | undefined> =>
    fileIn(directory, commit, path, 64 << 10);
  const { engines } = own;
  const node =
    (await wishedNode((name) => read(below(folder, name)), engines)) ??
    (around === null ? null : await wishedNode(read, around.engines));
  return { ...own.view, node, around: around && { ...around.view, folder } };
}

interface Viewed {
  readonly view: FolderView;
  readonly engines: string | null;
}

async function viewFolder(directory: string, commit: CommitId, folder: string): Promise<Viewed> {
  const paths = await pathsIn(directory, commit, folder);
  const near = nearPaths(paths);
  // One after the other: together they could hold more than one push is worth.
  const read = async <T>(
    wanted: readonly string[],
    largest: number,
    make: (text: string) => T | null,
  ): Promise<Readonly<Record<string, T>>> => {
    const all: (readonly [string, T])[] = [];
    for (const path of wanted) {
      const text = await fileIn(directory, commit, below(folder, path), largest);
      const made = text === undefined ? null : make(text);
      if (made !== null) all.push([path, made]);
    }
    return Object.fromEntries(all);
  };
  const isConfig = (path: string): boolean =>
    configFiles.some((name) => path === name || path.endsWith(`/${name}`));
  const locks = near.filter((path) => /(?:^|\/)(?:pnpm-lock\.yaml|yarn\.lock)$/.test(path));
  const settings = near.filter((path) => {
    const name = path.split('/').at(-1) ?? '';
    return (managerFiles as readonly string[]).includes(name) && !locks.includes(path);
  });
  const manifests = near.filter(
    (path) => path === 'package.json' || path.endsWith('/package.json'),
  );
  const packages = await read(manifests.slice(0, mostRead.manifests), largestManifest, readPackage);
  const named = [...settings, ...near.filter(isConfig)].slice(0, mostRead.configs);
  const configs = await read(named, largestConfig, (text) => text.slice(0, configHead));
  const heads = await read(locks.slice(0, mostRead.locks), largestLock, (text) =>
    text.slice(0, lockHead),
  );
  const texts = { ...configs, ...heads };
  return {
    view: { paths: near, packages: byFolder(packages, texts), configs: texts },
    engines: packages['package.json']?.engines ?? null,
  };
}

/** The project's own paths that lie near, those in the folder itself first: they are asked first, and tell most. */
function nearPaths(paths: readonly string[]): readonly string[] {
  const byDepth: string[][] = Array.from({ length: deepest }, () => []);
  for (const path of paths) {
    const depth = path.split('/').length - 1;
    const folder = path.slice(0, Math.max(0, path.lastIndexOf('/')));
    // A name that could end a line of a recipe is told by no proposal.
    if (isOwnWork(folder) && controlFault(path, 'line') === null) byDepth[depth]?.push(path);
  }
  return byDepth.flat().slice(0, mostPaths);
}

/** Manifests by the folders they stand in, each with the workspaces that a file beside it names. */
function byFolder(
  manifests: Readonly<Record<string, Manifest>>,
  configs: Readonly<Record<string, string>>,
): Readonly<Record<string, PackageView>> {
  return Object.fromEntries(
    Object.entries(manifests).map(([path, { engines: _, ...manifest }]) => {
      const folder = path === 'package.json' ? '' : path.slice(0, -'/package.json'.length);
      const listed = listedPackages(configs[below(folder, 'pnpm-workspace.yaml')]);
      return [folder, { ...manifest, workspaces: [...manifest.workspaces, ...listed] }];
    }),
  );
}

function listedPackages(text: string | undefined): readonly string[] {
  if (text === undefined) return [];
  try {
    const listed = z.object({ packages: z.array(z.string()) }).safeParse(parseYaml(text));
    return listed.success ? listed.data.packages : [];
  } catch {
    // A file that its own program could not read either names nothing.
    return [];
  }
}

/** What a package.json says; null for one that does not parse. */
export function readPackage(text: string): Manifest | null {
  try {
    return packageSchema.parse(JSON.parse(text));
  } catch {
    // A package.json that npm could not read either speaks for nothing.
    return null;
  }
}

function below(folder: string, path: string): string {
  return folder === '' ? path : `${folder}/${path}`;
}
