import { evidenceRoutes } from '@vaquero/contracts';
import {
  type Digest,
  encodeManifest,
  holdingByDefault,
  type InspectionRule,
  inspectionRules,
} from '@vaquero/core';
import { and, eq } from 'drizzle-orm';
import type { Express } from 'express';
import { storeOf } from '../artifacts/blob-store.ts';
import { keptManifest } from '../artifacts/proposed-files.ts';
import { lastSet } from '../audit/last-set.ts';
import { decide, sha256 } from '../audit/record.ts';
import { buildByNumber } from '../builds/build-rows.ts';
import { projects, provenances } from '../database/tables.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { requireSeen } from '../http/seen-version.ts';
import { serve } from '../http/serve-route.ts';
import { lockProject, projectById } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';

/** Serves what the inspection stops for, and the signed statements of where artifacts came from. */
export function serveEvidence(app: Express, deps: Deps): void {
  serve(app, deps, evidenceRoutes.showInspectionRoute, ({ project }) =>
    Promise.resolve(rulesWith(project.holding ?? holdingByDefault)),
  );
  serve(app, deps, evidenceRoutes.setInspectionRoute, async ({ project, body, caller, seen }) => {
    const holding = [...new Set(body.holding)];
    await inTransaction(deps.db, async (tx) => {
      await lockProject(tx, project.id);
      const now = (await projectById(tx, project.id)).holding ?? holdingByDefault;
      const last = () => lastSet(deps.db, project.id, 'inspection.set');
      await requireSeen(seen, 'inspection', versionOf(now), last);
      await tx.update(projects).set({ holding }).where(eq(projects.id, project.id));
      decide(tx, {
        at: deps.clock(),
        kind: 'inspection.set',
        project,
        doing: caller.doing,
        facts: {},
        before: { holding: now },
        after: { holding },
      });
    });
    return rulesWith(holding);
  });
  serve(app, deps, evidenceRoutes.provenanceRoute, async ({ project, params }) => {
    const number = params.build;
    const build = await buildByNumber(deps.db, project.id, number);
    const source =
      build?.reusedFrom == null
        ? build
        : await buildByNumber(deps.db, project.id, build.reusedFrom);
    const [row] =
      source === undefined
        ? []
        : await deps.db
            .select()
            .from(provenances)
            .where(and(eq(provenances.projectId, project.id), eq(provenances.buildId, source.id)));
    return row === undefined
      ? refused({ code: 'not-found', what: 'provenance of build', name: String(number) })
      : evidenceRoutes.envelope.parse(JSON.parse(row.envelope.toString('utf8')));
  });
  serve(app, deps, evidenceRoutes.manifestRoute, async ({ project, params }) => {
    const number = params.build;
    const build = await buildByNumber(deps.db, project.id, number);
    const artifact = (build?.artifact ?? null) as Digest | null;
    const manifest =
      artifact === null
        ? null
        : await keptManifest(deps, storeOf(deps.config.stateDirectory), project.id, artifact);
    return artifact === null || manifest === null
      ? refused({ code: 'not-found', what: 'kept artifact of build', name: String(number) })
      : { artifact, text: encodeManifest(manifest) };
  });
  serve(app, deps, evidenceRoutes.signingKeyRoute, () =>
    Promise.resolve({ keyId: deps.keys.keyId, pem: deps.keys.publicPem }),
  );
}

function versionOf(holding: readonly InspectionRule[]): string {
  return sha256([...holding].sort().join()).slice(0, 16);
}

function rulesWith(holding: readonly InspectionRule[]) {
  const names = Object.keys(inspectionRules) as InspectionRule[];
  return {
    version: versionOf(holding),
    rules: names.map((rule) => {
      const [severity, cure] = inspectionRules[rule];
      return { rule, severity, cure, holds: holding.includes(rule) };
    }),
  };
}
