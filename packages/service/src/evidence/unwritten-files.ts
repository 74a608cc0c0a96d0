import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import type { SiteFile, TreeFile } from '@vaquero/core';
import { blobPath } from '../artifacts/blob-store.ts';
import type { Deps } from '../base/deps.ts';
import { folderOf } from '../builds/build-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { treeFilesIn } from '../repositories/git-trees.ts';
import type { ToInspect } from './inspect-artifact.ts';

const mostAtOnce = 8;
/** What Git calls the bytes of a blob never changes; so many answers are remembered. */
const mostRemembered = 100_000;
const gitNames = new Map<string, string>();

/**
 * Paths of an artifact whose files hold the very bytes that were committed there: the build found them and did not
 * write them. None when the folder itself is what was committed to be published, or no step could have written.
 */
export async function unwrittenFiles(
  deps: Deps,
  { project, build, manifest, store, site }: ToInspect,
): Promise<ReadonlySet<string>> {
  const isWritten = (build.recipe?.recipe.steps.length ?? 0) > 0;
  if (!isWritten || site === '.' || site === folderOf(project, build)) return new Set();
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const committed = new Map<string, TreeFile>(
    (await treeFilesIn(directory, build.commitId, [site]))
      // A committed link stands in the artifact as the file that it leads to.
      .filter((file) => file.mode.startsWith('100'))
      .map((file) => [file.path.slice(site.length + 1), file]),
  );
  const left = manifest.site.files.filter((file) => committed.has(file.path));
  const unwritten = new Set<string>();
  const work = async (): Promise<void> => {
    for (let file = left.pop(); file !== undefined; file = left.pop()) {
      const { object } = committed.get(file.path) ?? { object: '' };
      if ((await gitNameOf(store, file, object.length)) === object) unwritten.add(file.path);
    }
  };
  await Promise.all(Array.from({ length: mostAtOnce }, work));
  return unwritten;
}

/** What Git calls the bytes of a stored file. Source: gitformat of a blob, hashed as `blob SIZE`, a zero byte, the bytes. */
async function gitNameOf(store: string, file: SiteFile, length: number): Promise<string> {
  const algorithm = length === 64 ? 'sha256' : 'sha1';
  const key = `${algorithm} ${file.digest}`;
  const known = gitNames.get(key);
  if (known !== undefined) return known;
  const hash = createHash(algorithm).update(`blob ${file.sizeBytes}\0`);
  await pipeline(createReadStream(blobPath(store, file.digest)), hash);
  const name = hash.digest('hex');
  gitNames.set(key, name);
  const [oldest] = gitNames.keys();
  if (gitNames.size > mostRemembered && oldest !== undefined) gitNames.delete(oldest);
  return name;
}
