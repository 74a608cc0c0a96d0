import type { BuildReply } from '@vaquero/contracts';
import { type Finding, flakyTests, type Instant, worstFirst } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { buildByNumber } from '../builds/build-rows.ts';
import { evidenceOf, testRunsOf } from './evidence-rows.ts';
import { inspectionFound } from './inspection-rows.ts';

type Evidence = BuildReply['evidence'];

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

/** What an inspection found in an artifact; null before it ended. */
async function inspectionOf(deps: Deps, build: BuildRecord): Promise<Evidence['inspection']> {
  const stopped = build.failure?.reason === 'inspection' ? build.failure : null;
  const artifact = stopped?.artifact ?? build.artifact;
  // A build of before what was inspected was named keeps what stopped it, and no more.
  if (stopped !== null && artifact === null)
    return {
      artifact: null,
      findings: [...stopped.findings],
      at: (build.endedAt ?? build.queuedAt) as Instant,
      tookMs: 0,
    };
  if (artifact === null) return null;
  const row = await inspectionFound(deps.db, build.projectId, artifact);
  if (row === undefined) return null;
  // Written by the inspection alone, as findings.
  const findings = worstFirst(row.findings as readonly Finding[]);
  return {
    // Nothing may name what was stopped: it answers nowhere.
    artifact: stopped === null ? row.artifact : null,
    findings: [...findings],
    at: row.at as Instant,
    tookMs: row.tookMs,
  };
}
