import type { PreviewSeen } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { bytesOf } from '../artifacts/artifact-rows.ts';
import type { Deps } from '../deps.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { type EnvironmentRow, environmentsOf } from './environment-rows.ts';
import { viewEnvironments } from './view-environments.ts';

/** The environments of families that live, those that end first standing first. */
export async function viewPreviews(
  deps: Deps,
  project: ProjectRow,
  isMeant: (row: EnvironmentRow) => boolean = () => true,
): Promise<PreviewSeen[]> {
  const [rows, views] = await Promise.all([
    environmentsOf(deps.db, project.id),
    viewEnvironments(deps, project, (row) => row.ref !== null && isMeant(row)),
  ]);
  const byName = new Map(rows.map((row) => [row.name, row]));
  const digests = views.flatMap(({ serves }) => serves?.artifact ?? []);
  const sizes = await bytesOf(deps.db, project.id, digests);
  return views
    .flatMap((view): readonly PreviewSeen[] => {
      const { name, address, admits, isLent, may, family, serves } = view;
      const row = byName.get(name);
      if (family === null || row === undefined) return [];
      return [
        {
          name,
          address,
          admits,
          isLent,
          may,
          family,
          build: serves?.build ?? null,
          bytes: serves === null ? null : (sizes.get(serves.artifact) ?? null),
          startedAt: row.startedAt as Instant | null,
          lastPushAt: row.touchedAt as Instant | null,
          lastVisitAt: row.visitedAt as Instant | null,
        },
      ];
    })
    .toSorted((a, b) => (a.family.endsAt ?? Infinity) - (b.family.endsAt ?? Infinity));
}
