import { createHash } from 'node:crypto';
import type { BigIntStats } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import type { Digest } from '@vaquero/core';
import { piecesOf } from './pieces.ts';
import { BlobDamaged, blobPath } from './read-blob.ts';

/** Opens blobs that are too large to be held for each of those who read them. */
export interface VerifiedFiles {
  /** The open file of a blob whose bytes were verified; the caller closes it. Throws BlobDamaged. */
  readonly open: (digest: Digest, sizeBytes: number) => Promise<FileHandle>;
}

/** What the file system says of a file: one that was changed, or is another, does not say the same. */
type Seen = Pick<BigIntStats, 'size' | 'ino' | 'mtimeNs' | 'ctimeNs'>;

const mostRemembered = 10_000;

/**
 * Makes what verifies large blobs: each once before its first byte goes out, and again when its size, its times or its
 * inode are no longer those of then. Many who ask for one at a time wait for one reading.
 */
export function makeVerifiedFiles(store: string): VerifiedFiles {
  const verified = new Map<Digest, Seen>();
  const underWay = new Map<string, Promise<void>>();

  const verify = async (file: FileHandle, digest: Digest, seen: Seen): Promise<void> => {
    const hash = createHash('sha256');
    for await (const piece of piecesOf(file, 0, Number(seen.size) - 1)) hash.update(piece);
    if (hash.digest('hex') !== digest) throw otherBytes(digest);
    verified.delete(digest);
    verified.set(digest, seen);
    const [oldest] = verified.keys();
    if (verified.size > mostRemembered && oldest !== undefined) verified.delete(oldest);
  };

  return {
    open: async (digest, sizeBytes) => {
      const file = await open(blobPath(store, digest), 'r').catch((cause: unknown) => {
        throw new BlobDamaged(`blob ${digest} cannot be read`, { cause });
      });
      try {
        const seen = await file.stat({ bigint: true });
        if (seen.size !== BigInt(sizeBytes)) throw otherBytes(digest);
        if (!isSame(verified.get(digest), seen)) {
          const key = `${digest} ${seen.ino} ${seen.ctimeNs}`;
          const reading = underWay.get(key) ?? verify(file, digest, seen);
          underWay.set(key, reading);
          await reading.finally(() => underWay.delete(key));
        }
        return file;
      } catch (error) {
        await file.close();
        throw error;
      }
    },
  };
}

function otherBytes(digest: Digest): BlobDamaged {
  return new BlobDamaged(`blob ${digest} holds other bytes than its name says`);
}

function isSame(known: Seen | undefined, now: Seen): boolean {
  return (
    known !== undefined &&
    known.size === now.size &&
    known.ino === now.ino &&
    known.mtimeNs === now.mtimeNs &&
    known.ctimeNs === now.ctimeNs
  );
}
