import type { ComparisonReply } from '@vaquero/contracts';
import {
  type FileChange,
  isPage,
  type Manifest,
  type PageLine,
  type PagesCompared,
  type SiteFile,
} from '@vaquero/core';
import type { LRUCache } from 'lru-cache';
import { blobPath, storeOf } from '../artifacts/blob-store.ts';
import type { KeptArtifact } from '../artifacts/kept-artifact.ts';
import type { Deps } from '../base/deps.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** What pages of two artifacts say otherwise, as it was told lately: artifacts never change. */
    readonly comparisons: LRUCache<string, Promise<PagesTold>>;
  }
}

/** So many pages are read for what they say, and so many bytes of them; of more the rest is told by their bytes alone. */
const mostPages = 250;
const largestPage = 512 * 1024;
const mostBytes = 32 * 1024 * 1024;
/** What is told of them. */
const mostPagesShown = 60;
const mostLines = 80;
const longestLine = 1_000;

/** What is told of pages. */
export type PagesTold = Pick<ComparisonReply, 'pages' | 'everywhere' | 'pageCounts'>;

/** The same, reckoned once for two artifacts: many people may look at once, and pages are read beside what is inspected. */
export function pagesOnce(
  deps: Deps,
  before: KeptArtifact,
  after: KeptArtifact,
  changes: readonly FileChange[],
): Promise<PagesTold> {
  const key = `${before.artifact} ${after.artifact}`;
  const known = deps.comparisons.get(key);
  if (known !== undefined) return known;
  const told = pagesOf(deps, before.manifest, after.manifest, changes);
  deps.comparisons.set(key, told);
  // What failed is tried again by whoever asks next.
  told.catch(() => deps.comparisons.delete(key));
  return told;
}

/** What the readers of the changed pages see. They are read by threads of their own: strangers wrote them. */
async function pagesOf(
  deps: Deps,
  before: Manifest,
  after: Manifest,
  changes: readonly FileChange[],
): Promise<PagesTold> {
  const old = filesByPath(before);
  const now = filesByPath(after);
  const changed = changes.filter(({ path }) => isPage(path));
  const read = changed.filter(
    ({ how }) => how === 'changed' || how === 'added' || how === 'renamed',
  );
  const looked = withinBounds(
    read.map(({ path, from, how }) => ({
      path,
      how,
      was: old.get(from ?? path),
      is: now.get(path),
    })),
  );
  const texts = await textsOf(
    deps,
    looked.flatMap(({ was, is }) => [was, is]),
  );
  const readable = looked.flatMap(({ path, was, is }) => {
    const [past, present] = [textIn(texts, was), textIn(texts, is)];
    return past === null || present === null ? [] : [{ path, before: past, after: present }];
  });
  const compared = await deps.reading.compare(readable);
  const { pages, everywhere, sameText } = compared === 'late' ? nothing : compared;
  const hows = new Map(looked.map(({ path, how }) => [path, how]));
  return {
    pages: pages.slice(0, mostPagesShown).map(({ path, lines }) => ({
      path,
      how: hows.get(path) ?? 'changed',
      lineCount: lines.filter(({ is }) => is !== 'same' && is !== 'gap').length,
      lines: lines.slice(0, mostLines).map(told),
    })),
    everywhere: { pages: everywhere.pages, lines: everywhere.lines.slice(0, mostLines).map(told) },
    pageCounts: {
      before: before.site.files.filter(({ path }) => isPage(path)).length,
      after: after.site.files.filter(({ path }) => isPage(path)).length,
      changed: changed.length,
      otherText: pages.length,
      sameText,
      unread: read.length - (compared === 'late' ? 0 : readable.length),
    },
  };
}

const nothing: PagesCompared = { pages: [], everywhere: { pages: 0, lines: [] }, sameText: 0 };

interface PageBytes {
  readonly was: SiteFile | undefined;
  readonly is: SiteFile | undefined;
}

/** The first pages that are not too large, as long as all of them together are not. */
function withinBounds<P extends PageBytes>(pages: readonly P[]): readonly P[] {
  const fitting = pages.filter(({ was, is }) =>
    [was, is].every((file) => (file?.sizeBytes ?? 0) <= largestPage),
  );
  let bytes = 0;
  return fitting.slice(0, mostPages).filter(({ was, is }) => {
    bytes += (was?.sizeBytes ?? 0) + (is?.sizeBytes ?? 0);
    return bytes <= mostBytes;
  });
}

type Line = PagesTold['pages'][number]['lines'][number];

/** A line as it is told; of a very long one, its beginning. */
function told(line: PageLine): Line {
  if (line.is === 'reworded') return { is: line.is, parts: [...line.parts] };
  const { is, text } = line;
  return { is, text: text.length > longestLine ? `${text.slice(0, longestLine)}…` : text };
}

function filesByPath({ site }: Manifest): ReadonlyMap<string, SiteFile> {
  return new Map(site.files.map((file) => [file.path, file]));
}

/** The text that each file shows, by digest; a page that took too long to read has none. */
async function textsOf(
  deps: Deps,
  files: readonly (SiteFile | undefined)[],
): Promise<ReadonlyMap<string, string>> {
  const store = storeOf(deps.config.stateDirectory);
  const digests = [...new Set(files.flatMap((file) => file?.digest ?? []))];
  const read = await deps.reading.files(
    digests.map((digest) => ({
      digest,
      source: blobPath(store, digest),
      kind: 'page' as const,
      facts: false,
      text: true,
    })),
    [],
  );
  return new Map(
    read.flatMap((one) => (one === 'late' || one.text === null ? [] : [[one.digest, one.text]])),
  );
}

function textIn(texts: ReadonlyMap<string, string>, file: SiteFile | undefined): string | null {
  return file === undefined ? '' : (texts.get(file.digest) ?? null);
}
