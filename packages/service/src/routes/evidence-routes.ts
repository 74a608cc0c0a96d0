import { comparisonRoutes, evidenceRoutes, type InspectionReply } from '@vaquero/contracts';
import {
  type DeliveryMap,
  encodeManifest,
  type InspectionRule,
  inspectionRules,
} from '@vaquero/core';
import type { Express } from 'express';
import { keptArtifactOf } from '../artifacts/kept-artifact.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { buildByNumber } from '../builds/build-rows.ts';
import { compareBuilds } from '../comparisons/compare-builds.ts';
import { provenanceOf } from '../evidence/provenance-rows.ts';
import { serve } from '../http/serve-route.ts';
import { mapOf } from '../map/map-rows.ts';

/** Serves what the inspection looks for, and the signed statements of where artifacts came from. */
export function serveEvidence(app: Express, deps: Deps): void {
  serve(app, deps, evidenceRoutes.showInspectionRoute, async ({ project }) =>
    rulesOf(await mapOf(deps.db, project)),
  );
  serve(app, deps, evidenceRoutes.provenanceRoute, async ({ project, params }) => {
    const number = params.build;
    const build = await buildByNumber(deps.db, project.id, number);
    const source =
      build?.reusedFrom == null
        ? build
        : await buildByNumber(deps.db, project.id, build.reusedFrom);
    const row =
      source === undefined ? undefined : await provenanceOf(deps.db, project.id, source.id);
    return row === undefined
      ? refused({ code: 'not-found', what: 'provenance of build', name: String(number) })
      : evidenceRoutes.envelope.parse(JSON.parse(row.envelope.toString('utf8')));
  });
  serve(app, deps, evidenceRoutes.manifestRoute, async ({ project, params }) => {
    const { artifact, manifest } = await keptArtifactOf(deps, project, params.build);
    return { artifact, text: encodeManifest(manifest) };
  });
  serve(app, deps, comparisonRoutes.compareRoute, ({ project, query }) =>
    compareBuilds(deps, project, query),
  );
  serve(app, deps, evidenceRoutes.signingKeyRoute, () =>
    Promise.resolve({ keyId: deps.keys.keyId, pem: deps.keys.publicPem }),
  );
}

function rulesOf(map: DeliveryMap): InspectionReply {
  const building = map.environments.filter(({ kind }) => kind !== 'accepts');
  const names = Object.keys(inspectionRules) as InspectionRule[];
  return {
    rules: names.map((rule) => {
      const [severity, cure] = inspectionRules[rule];
      const stops = building.filter((one) => one.stops.includes(rule)).map(({ name }) => name);
      return { rule, severity, cure, stops };
    }),
  };
}
