import { callFilter, type Processor } from '@vaquero/core';

/** File descriptors that bubblewrap and the program behind it are handed beside the three standard ones. */
export const descriptors = {
  info: 3,
  block: 4,
  args: 5,
  resolv: 6,
  hosts: 7,
  passwd: 8,
  npmrc: 9,
  calls: 10,
  values: 11,
  /** Where the process that waits hears what to become. */
  told: 12,
} as const;

/** What is mounted by its descriptor has these numbers in bubblewrap, in the order of the mounts. */
export const firstMounted = 20;

/** A word of a list that is parted by NUL. Throws a RangeError when it would become two of them. */
export function whole(word: string): string {
  if (word.includes('\0')) throw new RangeError('a word for the walls holds the character U+0000');
  return word;
}

/** Words as a list that is parted by NUL. Throws as `whole`. */
export function listed(words: readonly string[]): string {
  return words.map((word) => `${whole(word)}\0`).join('');
}

const processors: Readonly<Record<string, Processor>> = { x64: 'x64', arm64: 'arm64' };
let compiled: Uint8Array | null = null;

/** The filter of system calls for this machine. Throws where its calls are not known, as walls without it are none. */
export function filterOfCalls(): Uint8Array {
  const processor = processors[process.arch];
  if (processor === undefined)
    throw new Error(
      `the system calls of ${process.arch} are not known, and no build runs without their filter`,
    );
  compiled ??= callFilter(processor);
  return compiled;
}
