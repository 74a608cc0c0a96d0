import type { Readable } from 'node:stream';
import type { BuildAt } from '../builds/build-at.ts';
import { inTree, mustEndWell } from './in-tree.ts';

/**
 * Unpacks an archive into a folder of the build's uid. Behind the walls too: one that was made to harm a tar
 * program harms nobody. Throws with the reason.
 */
export async function unpackInto(at: BuildAt, folder: string, input: Readable): Promise<void> {
  const ended = await inTree(at, {
    // Archives of submodules stand behind that of the tree: tar reads on past each one's end.
    command: ['/usr/bin/tar', '-x', '--ignore-zeros', '--no-same-owner', '-f', '-'],
    tree: { folder, isWritable: true },
    input,
    hear: (bytes) => at.log.say(bytes, 'fetch'),
  });
  mustEndWell(ended, 'what came could not be unpacked');
}
