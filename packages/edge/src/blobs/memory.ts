/** Buffers by key, the longest unused forgotten first, up to a number of bytes. */
export interface Memory {
  readonly get: (key: string) => Buffer | undefined;
  readonly keep: (key: string, bytes: Buffer) => void;
}

/** Makes a memory. A buffer over an eighth of it is never kept: it would push out too much else. */
export function makeMemory(limitBytes: number): Memory {
  const kept = new Map<string, Buffer>();
  let size = 0;
  return {
    get: (key) => {
      const bytes = kept.get(key);
      if (bytes === undefined) return undefined;
      // A Map keeps the order of insertion: what is used moves to its end.
      kept.delete(key);
      kept.set(key, bytes);
      return bytes;
    },
    keep: (key, bytes) => {
      if (bytes.length > limitBytes / 8 || kept.has(key)) return;
      kept.set(key, bytes);
      size += bytes.length;
      for (const [oldest, old] of kept) {
        if (size <= limitBytes) break;
        kept.delete(oldest);
        size -= old.length;
      }
    },
  };
}
