import type { Instant } from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import { decide } from '../audit/record.ts';
import type { Tx } from '../database/pool.ts';
import { type ProjectRow, setMapVersion } from '../projects/project-rows.ts';
import { insertMap } from './map-rows.ts';

/** The next version of a map: its words, why it is set, and the environments that were made and ended with it. */
export interface NextVersion {
  readonly version: number;
  readonly text: string;
  readonly reason: string;
  readonly made: readonly string[];
  readonly ended: readonly string[];
}

/** Makes a version of its map the one that a project follows, and puts that on record. Takes the project as it stands, locked. */
export async function writeVersion(
  tx: Tx,
  project: ProjectRow,
  { version, text, reason, made, ended }: NextVersion,
  by: { readonly doing: Doing; readonly personId: string | null; readonly at: Instant },
): Promise<void> {
  const { doing, personId, at } = by;
  await insertMap(tx, { projectId: project.id, version, text, personId, reason, at });
  await setMapVersion(tx, project.id, version);
  decide(tx, {
    at,
    kind: 'map.set',
    project,
    doing,
    why: reason,
    facts: { version, made: [...made], ended: [...ended] },
    before: { version: project.mapVersion },
    after: { version },
  });
}
