import type { PreviewSeen } from '@vaquero/contracts';
import { type Instant, ruleNamed } from '@vaquero/core';
import { bytesOf } from '../artifacts/artifact-rows.ts';
import type { Deps } from '../base/deps.ts';
import { type EnvironmentRow, environmentsOf } from '../environments/environment-rows.ts';
import { deploysById } from '../environments/ledger-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { mayOf } from './view-environments.ts';
import { familiesOf } from './view-families.ts';

/** The environments of families that live, those that end first standing first; hundreds of them are read in a few questions. */
export async function viewPreviews(
  deps: Deps,
  project: ProjectRow,
  isMeant: (row: EnvironmentRow) => boolean = () => true,
): Promise<PreviewSeen[]> {
  const [all, map] = await Promise.all([
    environmentsOf(deps.db, project.id),
    mapOf(deps.db, project),
  ]);
  const rows = all.filter((row) => row.ref !== null && isMeant(row));
  const [families, deploys] = await Promise.all([
    familiesOf(deps, project, map, rows),
    deploysById(
      deps.db,
      rows.flatMap(({ servesDeployId }) => servesDeployId ?? []),
    ),
  ]);
  const digests = [...deploys.values()].map(({ artifact }) => artifact);
  const sizes = await bytesOf(deps.db, project.id, digests);
  return rows
    .flatMap((row): readonly PreviewSeen[] => {
      const family = families.get(row.id) ?? null;
      if (family === null) return [];
      const rule = ruleNamed(map, row.rule);
      const serves = deploys.get(row.servesDeployId ?? '');
      return [
        {
          name: row.name,
          address: addressOf(hostOfEnvironment(deps.config, project.name, row)),
          admits: rule?.admits ?? 'members',
          isLent: row.linkHash !== null,
          may: mayOf(rule, row),
          family,
          build: serves?.build ?? null,
          bytes: serves === undefined ? null : (sizes.get(serves.artifact) ?? null),
          startedAt: row.startedAt as Instant | null,
          lastPushAt: row.touchedAt as Instant | null,
          lastVisitAt: row.visitedAt as Instant | null,
        },
      ];
    })
    .toSorted((a, b) => (a.family.endsAt ?? Infinity) - (b.family.endsAt ?? Infinity));
}
