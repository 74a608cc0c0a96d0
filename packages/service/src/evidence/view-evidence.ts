import { flakyTests } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { type BuildRecord, buildByNumber } from '../builds/build-rows.ts';
import { evidenceOf, testRunsOf } from './evidence-rows.ts';
import { type Evidence, inspectionOf } from './inspection-rows.ts';

/** How many runs of a ref are looked at for tests that now pass and now fail. */
const runsLookedAt = 20;

/** All that is known of a build's result beside its bytes. */
export async function viewEvidence(deps: Deps, build: BuildRecord): Promise<Evidence> {
  const [rows, runs, inspection] = await Promise.all([
    evidenceOf(deps.db, await sourceOf(deps, build)),
    testRunsOf(deps.db, build, runsLookedAt),
    inspectionOf(deps, build),
  ]);
  return {
    tests: rows.flatMap((row) => {
      if (row.kind !== 'tests') return [];
      const { passedNames: _, failures, slowest, ...counts } = row.content;
      return [
        {
          step: row.step,
          path: row.path,
          ...counts,
          failures: [...failures],
          slowest: [...slowest],
        },
      ];
    }),
    flaky: rows.some((row) => row.kind === 'tests') ? [...flakyTests(runs)] : [],
    findings: rows.flatMap((row) =>
      row.kind === 'findings' ? row.content.map((one) => ({ ...one, step: row.step })) : [],
    ),
    differences: rows.flatMap((row) =>
      row.kind === 'differences'
        ? [{ step: row.step, files: [...row.content.files], with: row.content.with }]
        : [],
    ),
    inspection,
  };
}

/** A build that took over another's artifact has that one's evidence. */
async function sourceOf(deps: Deps, build: BuildRecord): Promise<string> {
  if (build.reusedFrom === null) return build.id;
  return (await buildByNumber(deps.db, build.projectId, build.reusedFrom))?.id ?? build.id;
}
