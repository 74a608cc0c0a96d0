import { kindsThat, type ReadEntry, traitsOf } from '@vaquero/core';
import { entriesBetween, headPosition } from '../audit/log-entry-rows.ts';
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
/** A move has a few decisions beside it: those are read as they come. */
const fewMissed = 100;

/** What decisions up to a revision have touched: null when it is more, or less plain, than the whole table is. */
export interface TouchedUpTo {
  readonly revision: number;
  readonly touched: Touched | null;
}

/**
 * What the decisions since a position have touched. Names and rules of a project that were set touch more than can be
 * told by its environments, and so does what an edge missed that was away for long. From -1, nothing is known.
 */
export async function touchedSince(db: Db, from: number): Promise<TouchedUpTo> {
  if (from < 0) return { revision: await headPosition(db), touched: null };
  const few = await entriesBetween(db, from, Number.MAX_SAFE_INTEGER, fewMissed);
  const last = few.at(-1);
  if (last !== undefined && few.length < fewMissed)
    return { revision: last.position, touched: touchedBy(few) };
  const revision = await headPosition(db);
  if (from > revision || revision - from > mostMissed) return { revision, touched: null };
  const kinds = kindsThat('routing');
  const many = await entriesBetween(db, from, revision, mostTouched + 1, kinds);
  return { revision, touched: many.length > mostTouched ? null : touchedBy(many) };
}

function touchedBy(entries: readonly ReadEntry[]): Touched | null {
  const projectIds = new Set<string>();
  const named = new Map<string, Touched['environments'][number]>();
  for (const entry of entries) {
    const touches = touchedByOne(entry);
    if (touches === null) return null;
    for (const id of touches.projectIds) projectIds.add(id);
    for (const one of touches.environments) named.set(`${one.projectId} ${one.name}`, one);
  }
  return { projectIds: [...projectIds], environments: [...named.values()] };
}

const nothing: Touched = { projectIds: [], environments: [] };

function touchedByOne({ kind, project, facts }: ReadEntry): Touched | null {
  if (!traitsOf(kind).routing) return nothing;
  // Edges ask for artifacts by name; that there is a new one makes what they know old.
  if (kind === 'artifact.stored' || kind === 'build.passed') return nothing;
  if (project === null || project.id === null || project.id === '') return null;
  if (kind === 'project.made') return { ...nothing, projectIds: [project.id] };
  const { environment: name } = facts;
  const isOfOne = kind.startsWith('environment.') && typeof name === 'string';
  if (!isOfOne) return null;
  return { ...nothing, environments: [{ projectId: project.id, name }] };
}
