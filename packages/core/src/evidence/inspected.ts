import type { Manifest } from '../artifacts/manifest.ts';

/** A place that a file of a site refers to, as it is written there. */
export interface Reference {
  readonly to: string;
  readonly line: number | null;
  readonly kind: 'page' | 'asset';
}

/** What was read in one file's bytes; says nothing of where the file stands. */
export interface FileFacts {
  readonly references: readonly Reference[];
  /** Names that links can jump to. */
  readonly anchors: readonly string[];
  /** Where relative references count from, if the page says so. */
  readonly base: string | null;
  readonly privateAddresses: readonly { readonly address: string; readonly line: number }[];
  readonly keys: readonly { readonly what: string; readonly line: number }[];
  readonly isPointer: boolean;
}

/** An artifact as the inspection looks at it. */
export interface Inspected {
  readonly manifest: Manifest;
  /** By digest; a file that was too large to be read has none. */
  readonly facts: ReadonlyMap<string, FileFacts>;
  /** Secrets whose value stands in a file, by the file's path. */
  readonly leaks: readonly {
    readonly path: string;
    readonly name: string;
    readonly line: number;
  }[];
  /** Digests of files that took too long to be read. */
  readonly late: ReadonlySet<string>;
  /** Paths of the output that hold what was committed there. */
  readonly unwritten: ReadonlySet<string>;
  /** Files that are said never to change, and did since the build that was served where it would go. */
  readonly changed: readonly { readonly path: string; readonly build: number }[];
  /** What is live where it would go, if anything is. */
  readonly live: { readonly files: number; readonly bytes: number } | null;
}
