import type { ComparisonReply } from '@vaquero/contracts';
import {
  compareFiles,
  comparePages,
  type Digest,
  type FileChange,
  type Finding,
  isPage,
  type Manifest,
  type SiteFile,
} from '@vaquero/core';
import { type BuildRecord, buildByNumber } from '../builds/build-rows.ts';
import type { Deps } from '../deps.ts';
import { viewEvidence } from '../evidence/view-evidence.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';
import { blobPath, storeOf } from './blob-store.ts';
import { keptManifest } from './proposed-files.ts';

const mostFiles = 300;
/** So many pages are read for what they say; of more the rest is told by their bytes alone. */
const mostPages = 250;
const largestPage = 512 * 1024;
const mostPagesShown = 60;
const mostLines = 80;
const mostNames = 50;

/**
 * What differs between the artifacts of two builds of a project: files, what readers of pages see, sizes, how addresses
 * are answered, tests and findings. Refuses: not-found, where one is not kept.
 */
export async function compareBuilds(
  deps: Deps,
  project: ProjectRow,
  { before, after }: { readonly before: number; readonly after: number },
): Promise<ComparisonReply> {
  const [one, other] = await Promise.all([
    sideOf(deps, project, before),
    sideOf(deps, project, after),
  ]);
  const files = compareFiles(one.manifest.site.files, other.manifest.site.files);
  const [pages, was, is] = await Promise.all([
    pagesOnce(deps, one, other, files.changes),
    viewEvidence(deps, one.build),
    viewEvidence(deps, other.build),
  ]);
  const counts = (how: FileChange['how']): number =>
    files.changes.filter((change) => change.how === how).length;
  return {
    before: { build: before, artifact: one.artifact, ...files.before },
    after: { build: after, artifact: other.artifact, ...files.after },
    same: files.same,
    counts: {
      added: counts('added'),
      changed: counts('changed'),
      removed: counts('removed'),
      renamed: counts('renamed'),
    },
    files: files.changes.slice(0, mostFiles).map((change) => ({ ...change })),
    types: files.types.slice(0, 20).map((type) => ({ ...type })),
    answers: rulesThatDiffer(one.manifest, other.manifest),
    ...pages,
    tests: {
      before: totalOf(was.tests),
      after: totalOf(is.tests),
    },
    findings: findingsThatDiffer(was.inspection?.findings ?? [], is.inspection?.findings ?? []),
  };
}

interface Side {
  readonly build: BuildRecord;
  readonly artifact: Digest;
  readonly manifest: Manifest;
}

async function sideOf(deps: Deps, project: ProjectRow, number: number): Promise<Side> {
  const build = await buildByNumber(deps.db, project.id, number);
  const artifact = (build?.artifact ?? null) as Digest | null;
  const store = storeOf(deps.config.stateDirectory);
  const manifest = artifact === null ? null : await keptManifest(deps, store, project.id, artifact);
  return build === undefined || artifact === null || manifest === null
    ? refused({ code: 'not-found', what: 'kept artifact of build', name: String(number) })
    : { build, artifact, manifest };
}

/** What is told of pages. */
export type PagesTold = Pick<ComparisonReply, 'pages' | 'everywhere' | 'pageCounts'>;

/** The same, reckoned once for two artifacts: many people may look at once, and pages are read beside what is inspected. */
function pagesOnce(
  deps: Deps,
  before: Side,
  after: Side,
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
  const fits = (file: SiteFile | undefined): boolean =>
    file === undefined || file.sizeBytes <= largestPage;
  const looked = read
    .map(({ path, from, how }) => ({ path, how, was: old.get(from ?? path), is: now.get(path) }))
    .filter(({ was, is }) => fits(was) && fits(is))
    .slice(0, mostPages);
  const texts = await textsOf(
    deps,
    looked.flatMap(({ was, is }) => [was, is]),
  );
  const compared = comparePages(
    looked.flatMap(({ path, was, is }) => {
      const [past, present] = [textIn(texts, was), textIn(texts, is)];
      return past === null || present === null ? [] : [{ path, before: past, after: present }];
    }),
  );
  const hows = new Map(looked.map(({ path, how }) => [path, how]));
  return {
    pages: compared.pages.slice(0, mostPagesShown).map(({ path, lines }) => ({
      path,
      how: hows.get(path) ?? 'changed',
      lineCount: lines.filter(({ is }) => is !== 'same' && is !== 'gap').length,
      lines: lines.slice(0, mostLines).map(plain),
    })),
    everywhere: {
      pages: compared.everywhere.pages,
      lines: compared.everywhere.lines.slice(0, mostLines).map(plain),
    },
    pageCounts: {
      before: before.site.files.filter(({ path }) => isPage(path)).length,
      after: after.site.files.filter(({ path }) => isPage(path)).length,
      changed: changed.length,
      otherText: compared.pages.length,
      sameText: compared.sameText,
      unread: read.length - looked.length,
    },
  };
}

type Line = PagesTold['pages'][number]['lines'][number];

function plain(line: ReturnType<typeof comparePages>['pages'][number]['lines'][number]): Line {
  return line.is === 'reworded' ? { is: line.is, parts: [...line.parts] } : { ...line };
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

const answering = ['base', 'moved', 'instead', 'missing', 'headers', 'immutable'] as const;

/** The keys of `serve` that the two say otherwise. */
function rulesThatDiffer(before: Manifest, after: Manifest): string[] {
  const saying = ({ site }: Manifest, key: string): string =>
    JSON.stringify((site as unknown as Record<string, unknown>)[key] ?? null);
  return answering.filter((key) => saying(before, key) !== saying(after, key));
}

function totalOf(
  reports: Awaited<ReturnType<typeof viewEvidence>>['tests'],
): ComparisonReply['tests']['before'] {
  const sum = (count: (one: (typeof reports)[number]) => number): number =>
    reports.reduce((total, one) => total + count(one), 0);
  return { total: sum(({ total }) => total), failed: sum(({ failed }) => failed) };
}

function findingsThatDiffer(
  before: readonly Finding[],
  after: readonly Finding[],
): ComparisonReply['findings'] {
  const keyOf = ({ rule, path, message }: Finding): string => `${rule} ${path} ${message}`;
  const [was, is] = [new Set(before.map(keyOf)), new Set(after.map(keyOf))];
  return {
    new: after.filter((one) => !was.has(keyOf(one))).slice(0, mostNames),
    gone: before.filter((one) => !is.has(keyOf(one))).slice(0, mostNames),
  };
}
