import { kindsThat, type ReadEntry, traitsOf } from '@vaquero/core';
import { entriesBetween } from '../audit/follow-log.ts';
import type { Db } from '../database/pool.ts';

/** What of the routing table decisions have touched. */
export interface Touched {
  /** Projects all of whose environments are to be read anew. */
  readonly projectIds: readonly string[];
  readonly environments: readonly { readonly projectId: string; readonly name: string }[];
}

/** An edge that missed more than this is sent the whole table. */
const mostMissed = 20_000;
const mostTouched = 500;

/**
 * What the decisions between two positions have touched; null when it is more, or less plain, than the whole table is:
 * names and rules of a project were set, or nobody knows how long the edge was away.
 */
export async function touchedBetween(db: Db, from: number, upTo: number): Promise<Touched | null> {
  if (from < 0 || from > upTo || upTo - from > mostMissed) return null;
  const entries = await entriesBetween(db, from, upTo, mostTouched + 1, kindsThat('routing'));
  if (entries.length > mostTouched) return null;
  const projectIds = new Set<string>();
  const named = new Map<string, Touched['environments'][number]>();
  for (const entry of entries) {
    const touches = touchedBy(entry);
    if (touches === null) return null;
    for (const id of touches.projectIds) projectIds.add(id);
    for (const one of touches.environments) named.set(`${one.projectId} ${one.name}`, one);
  }
  return { projectIds: [...projectIds], environments: [...named.values()] };
}

const nothing: Touched = { projectIds: [], environments: [] };

function touchedBy({ kind, project, facts }: ReadEntry): Touched | null {
  // Edges ask for artifacts by name; that there is a new one makes what they know old.
  if (kind === 'artifact.stored' || kind === 'build.passed') return nothing;
  if (project === null || project.id === null || project.id === '') return null;
  if (kind === 'project.made') return { ...nothing, projectIds: [project.id] };
  const { environment: name } = facts;
  const isOfOne = kind.startsWith('environment.') && typeof name === 'string';
  if (!isOfOne || !traitsOf(kind).routing) return null;
  return { ...nothing, environments: [{ projectId: project.id, name }] };
}
