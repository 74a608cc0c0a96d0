import type { FileFacts } from '@vaquero/core';
import type { FileKind } from './file-facts.ts';

/** Facts of files in memory. By kind first: a digest is found by itself then, without a key made of both. */
export interface KnownFacts {
  readonly get: (kind: FileKind, digest: string) => FileFacts | undefined;
  readonly set: (kind: FileKind, digest: string, facts: FileFacts) => void;
}

/** More than the sites of one installation hold together; beyond it, what was remembered first goes. */
const mostRemembered = 100_000;

export function makeKnownFacts(): KnownFacts {
  const known = new Map<FileKind, Map<string, FileFacts>>();
  return {
    get: (kind, digest) => known.get(kind)?.get(digest),
    set: (kind, digest, facts) => {
      const own = known.get(kind) ?? new Map<string, FileFacts>();
      known.set(kind, own);
      own.set(digest, facts);
      const [oldest] = own.keys();
      if (own.size > mostRemembered && oldest !== undefined) own.delete(oldest);
    },
  };
}
