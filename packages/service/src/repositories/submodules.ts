import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join, posix } from 'node:path';
import { faultText } from '@vaquero/contracts';
import type { Trust } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Refused } from '../base/refused.ts';
import { projectFormerly } from '../projects/former-name-rows.ts';
import { type ProjectRow, projectByName } from '../projects/project-rows.ts';
import { directoryOf, fileIn, makeBare } from './bare-repository.ts';
import { git, mostMemoryBytes, tryGit } from './git.ts';
import { treeFilesIn } from './git-trees.ts';
import { objectsOf } from './object-reader.ts';
import { ownName, type Reach, reach, shownPlace } from './reach.ts';

/** A submodule of a tree: where it lies in it, and the commit and the bare repository that hold its files. */
export interface Submodule {
  readonly path: string;
  readonly commit: string;
  readonly directory: string;
}

/** Why a submodule cannot be fetched; its words end the build. */
export class SubmoduleMissing extends Error {
  override readonly name = 'SubmoduleMissing';
}

const submoduleMode = '160000';
const mostDeep = 8;
/** Each is a fetch and an archive; a repository that is its own submodule would be without end. */
const mostSubmodules = 200;

/** Whose submodules are fetched: the project decides what may be given, the repository what an address counts from. */
export interface SubmoduleSource {
  readonly directory: string;
  readonly place: string;
  readonly project: Pick<ProjectRow, 'name' | 'repositoryId'>;
  readonly trust: Trust;
}

/**
 * The submodules of a commit at or below some paths, those of submodules included, each fetched at the
 * commit that the tree records. Throws SubmoduleMissing with what stands in the way.
 */
export async function fetchSubmodules(
  deps: Deps,
  source: SubmoduleSource,
  commit: string,
  paths: readonly string[],
  depth = 0,
  budget = { left: mostSubmodules },
): Promise<readonly Submodule[]> {
  const files = await treeFilesIn(source.directory, commit, paths);
  const links = files.filter((file) => file.mode === submoduleMode);
  if (links.length === 0) return [];
  if (depth >= mostDeep)
    throw new SubmoduleMissing(`submodules lie in submodules over ${mostDeep} deep`);
  const places = await placesIn(source.directory, commit);
  const all: Submodule[] = [];
  for (const { path, object } of links) {
    budget.left -= 1;
    if (budget.left < 0)
      throw new SubmoduleMissing(
        `there are over ${mostSubmodules} submodules, those of submodules counted`,
      );
    const written = places.get(path);
    if (written === undefined)
      throw new SubmoduleMissing(`the submodule ${path} is not named in .gitmodules`);
    const place = resolved(source.place, written);
    const hosted = await hostedAt(deps, source, path, place);
    const directory = hosted ?? (await fetchAllowed(deps, source, path, place, object));
    if (hosted !== null) await requireCommit(hosted, path, object);
    all.push({ path, commit: object, directory });
    const inner = await fetchSubmodules(
      deps,
      { ...source, directory, place },
      object,
      [],
      depth + 1,
      budget,
    );
    all.push(...inner.map((one) => ({ ...one, path: `${path}/${one.path}` })));
  }
  return all;
}

/** Addresses by path, as .gitmodules has them; read by Git itself. */
async function placesIn(directory: string, commit: string): Promise<ReadonlyMap<string, string>> {
  const text = (await fileIn(directory, commit as never, '.gitmodules', 1 << 20)) ?? '';
  const listed = await git(['config', '--file', '-', '--null', '--list'], { input: text });
  const sections = new Map<string, { path?: string; url?: string }>();
  for (const entry of listed.split('\0')) {
    const [key = '', value = ''] = entry.split(/\n(.*)/s);
    const read = /^submodule\.(.*)\.(path|url)$/s.exec(key);
    if (read === null) continue;
    const [, name = '', field = ''] = read;
    sections.set(name, { ...sections.get(name), [field]: value });
  }
  return new Map(
    [...sections.values()].flatMap(({ path, url }) =>
      path === undefined || url === undefined ? [] : [[path, url] as const],
    ),
  );
}

/**
 * The repository of this very service that a place is the address of, if the project may have it; null for other
 * places. Who may push to one project could otherwise read every other one: allowed are the project's own repository
 * and those that an operator opened to it by name.
 */
async function hostedAt(
  deps: Deps,
  { project, trust }: SubmoduleSource,
  path: string,
  place: string,
): Promise<string | null> {
  const name = URL.canParse(place) ? ownName(deps.config, new URL(place)) : null;
  if (name === null) return null;
  const lender =
    name === ''
      ? undefined
      : ((await projectByName(deps.db, name)) ??
        (await projectFormerly(deps.db, name, deps.clock())));
  const isOwn = lender?.repositoryId === project.repositoryId;
  const isOpened = deps.config.openedRepositories.some(
    (one) => one.lender === name && one.borrower === project.name,
  );
  if (lender !== undefined && (isOwn || (isOpened && trust === 'trusted')))
    return directoryOf(deps.config.stateDirectory, lender.repositoryId);
  // Whether there is such a project is not said.
  throw new SubmoduleMissing(
    `the submodule ${path} lies at a repository of this service that ${project.name} may not have; an operator can open it (VAQUERO_OPENED_REPOSITORIES)`,
  );
}

async function requireCommit(directory: string, path: string, commit: string): Promise<void> {
  if ((await objectsOf(directory).info(`${commit}^{commit}`)) === null)
    throw new SubmoduleMissing(`the submodule ${path} has no commit ${commit.slice(0, 12)}`);
}

/**
 * Fetches a submodule, if the service may: whoever can push could otherwise send it to any address that it reaches.
 * Allowed are the host that the repository itself comes from, and folders below those that the operator opened.
 */
async function fetchAllowed(
  deps: Deps,
  { place: parent, trust }: SubmoduleSource,
  path: string,
  place: string,
  commit: string,
): Promise<string> {
  if (place.startsWith('/') && trust === 'outsider')
    throw new SubmoduleMissing(
      `the submodule ${path} lies at ${place}; an outsider’s commit is given nothing from this machine’s folders`,
    );
  if (!place.startsWith('/') && !isOnHostOf(parent, place))
    throw new SubmoduleMissing(
      `the submodule ${path} lies at ${shownPlace(place)}; the service fetches submodules only from the host of the repository itself and from folders that the operator opened`,
    );
  try {
    return await fetchAt(deps, path, await reach(deps.config, place), commit);
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    throw new SubmoduleMissing(
      place.startsWith('/')
        ? `the submodule ${path} lies at ${place}, which is no repository below a folder that the operator opened`
        : `the submodule ${path} cannot be fetched: ${faultText(error.refusal)}`,
    );
  }
}

/** Whether a place is an address without a name in it on the very host that a repository comes from. */
export function isOnHostOf(parent: string | null, place: string): boolean {
  const url = URL.canParse(place) ? new URL(place) : null;
  const own = parent !== null && URL.canParse(parent) ? new URL(parent) : null;
  const isHttp = url !== null && /^https?:$/.test(url.protocol) && url.username === '';
  return isHttp && own !== null && url.host === own.host && url.protocol === own.protocol;
}

/** An address as Git reads it: one that begins with ./ or ../ counts from the repository that has it (gitmodules(5)). */
function resolved(parent: string, written: string): string {
  if (!/^\.\.?\//.test(written)) return written;
  if (parent.startsWith('/')) return posix.join(parent, written);
  const url = new URL(parent);
  url.pathname = posix.join(url.pathname, written);
  return url.href;
}

/** Fetches under way, by place: two builds that want one submodule do not make its repository twice. */
const underWay = new Map<string, Promise<unknown>>();

/** Fetches one commit into a bare repository kept for its place; one that is there already costs nothing. */
async function fetchAt(deps: Deps, path: string, way: Reach, commit: string): Promise<string> {
  const { place } = way;
  const earlier = underWay.get(place) ?? Promise.resolve();
  const fetching = earlier.then(
    () => fetchNow(deps, path, way, commit),
    () => fetchNow(deps, path, way, commit),
  );
  underWay.set(place, fetching);
  try {
    return await fetching;
  } finally {
    if (underWay.get(place) === fetching) underWay.delete(place);
  }
}

async function fetchNow(
  deps: Deps,
  path: string,
  { place, args }: Reach,
  commit: string,
): Promise<string> {
  const name = createHash('sha256').update(place).digest('hex');
  const directory = join(deps.config.stateDirectory, 'submodules', `${name}.git`);
  if (!existsSync(directory)) await makeBare(directory, 'main');
  const has = async (): Promise<boolean> =>
    (await objectsOf(directory).info(`${commit}^{commit}`)) !== null;
  if (await has()) return directory;
  const fetch = (wanted: string, ...more: readonly string[]) =>
    tryGit(
      [
        ...args,
        'fetch',
        '--quiet',
        '--no-tags',
        '--no-auto-gc',
        '--no-write-fetch-head',
        ...more,
        '--',
        place,
        wanted,
      ],
      { cwd: directory, timeoutMs: 300_000, mostMemoryBytes: mostMemoryBytes.fetch },
    );
  const one = await fetch(`+${commit}:refs/vaquero/kept/${commit}`, '--depth=1');
  // Some servers give no commit that is not a ref: then all refs are fetched, and it may be among them.
  const all = one.ok ? one : await fetch('+refs/*:refs/vaquero/seen/*');
  if (await has()) {
    await tryGit(['update-ref', `refs/vaquero/kept/${commit}`, commit], { cwd: directory });
    return directory;
  }
  const why = all.ok ? 'it is on none of its branches' : firstLine(all.stderr);
  throw new SubmoduleMissing(
    `the submodule ${path} could not be fetched from ${shownPlace(place)} at ${commit.slice(0, 12)}: ${why}`,
  );
}

function firstLine(text: string): string {
  return (/(?:fatal|error): (.*)/.exec(text)?.[1] ?? (text.trim() || 'no answer')).slice(0, 300);
}
