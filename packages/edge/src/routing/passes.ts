import { createPublicKey, type KeyObject, verify } from 'node:crypto';
import { type Pass, passText, readPass } from '@vaquero/core';

/** Tells the service's own words from all others. */
export interface Passes {
  /** What the service vouches for by a word, if it is its own; undefined for every other word. */
  readonly read: (word: string, publicPem: string) => Pass | undefined;
}

/** Words whose signature was checked are remembered: a page asks for dozens of files with the same one. */
const mostChecked = 10_000;

/** Makes what reads passes. */
export function makePasses(): Passes {
  const checked = new Map<string, Pass>();
  let key: { readonly pem: string; readonly object: KeyObject } | null = null;
  const keyOf = (pem: string): KeyObject => {
    if (key?.pem !== pem) {
      key = { pem, object: createPublicKey(pem) };
      checked.clear();
    }
    return key.object;
  };
  return {
    read: (word, publicPem) => {
      const object = keyOf(publicPem);
      const before = checked.get(word);
      if (before !== undefined) return before;
      const read = readPass(word);
      if (read === undefined) return undefined;
      const signature = Buffer.from(read.signature, 'base64url');
      if (!verify(null, Buffer.from(passText(read.pass)), object, signature)) return undefined;
      if (checked.size >= mostChecked) checked.clear();
      checked.set(word, read.pass);
      return read.pass;
    },
  };
}
