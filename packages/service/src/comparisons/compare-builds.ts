import type { ComparisonReply } from '@vaquero/contracts';
import { compareFiles, type FileChange, findingsThatDiffer, type Manifest } from '@vaquero/core';
import { keptArtifactOf } from '../artifacts/kept-artifact.ts';
import type { Deps } from '../base/deps.ts';
import { viewEvidence } from '../evidence/view-evidence.ts';
import { picturesBetween } from '../pictures/want-pictures.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { pagesOnce } from './pages-told.ts';

const mostFiles = 300;
const mostFindings = 50;

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
    keptArtifactOf(deps, project, before),
    keptArtifactOf(deps, project, after),
  ]);
  const files = compareFiles(one.manifest.site.files, other.manifest.site.files);
  const [pages, pictures, was, is] = await Promise.all([
    pagesOnce(deps, one, other, files.changes),
    picturesBetween(deps, project, one, other, files.changes),
    viewEvidence(deps, one.build),
    viewEvidence(deps, other.build),
  ]);
  const findings = findingsThatDiffer(
    was.inspection?.findings ?? [],
    is.inspection?.findings ?? [],
  );
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
    pictures,
    tests: {
      before: totalOf(was.tests),
      after: totalOf(is.tests),
    },
    findings: {
      new: findings.new.slice(0, mostFindings),
      gone: findings.gone.slice(0, mostFindings),
    },
  };
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
