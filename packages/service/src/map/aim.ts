import {
  type DeliveryMap,
  type Destination,
  destinationOf,
  type Proposed,
  type RefName,
  readRefName,
  ruleNamed,
  wantedBy,
} from '@vaquero/core';
import type { Aim } from '../database/kept-shapes.ts';
import type { Db, Tx } from '../database/pool.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { mapOf } from './map-rows.ts';

/**
 * Where a ref of a project goes by its map. Code of outsiders goes nowhere: nothing of theirs reaches an environment.
 */
export function destinationFor(
  map: DeliveryMap,
  ref: RefName,
  proposed: Proposed | null,
): Destination {
  const found = destinationOf(map, ref, proposed?.into ?? null);
  if (found.rules.length === 0 || proposed === null) return found;
  if (proposed.trust === 'outsider')
    return { rules: [], why: 'nowhere: what outsiders propose reaches no environment' };
  return proposed.isDraft === true
    ? { ...found, why: `nowhere until it is ready, as it is a draft: ${found.why}` }
    : found;
}

/** What is left of where a ref goes for a build that only some of its rules want, as the others are given other values. */
export function narrowedTo(
  destination: Destination,
  names: readonly string[],
  ref: RefName,
  into: string | null,
): Destination {
  const rules = destination.rules.filter(({ name }) => names.includes(name));
  if (rules.length === destination.rules.length) return destination;
  return { rules, why: `${wantedBy(rules, ref, into)}, with values of its own` };
}

/** What a rule is called now that may have been renamed since. */
function presentName(map: DeliveryMap, name: string): string {
  if (ruleNamed(map, name) !== undefined) return name;
  return map.environments.find(({ was }) => was === name)?.name ?? name;
}

/** What stands on a build of where it goes. */
export function aimOf(map: DeliveryMap, { rules, why }: Destination): Aim {
  return { map: map.version, rules: rules.map(({ name }) => name), why };
}

/** What a build knows of where it goes: as it was asked when its commit was noticed. */
export interface Aimed {
  readonly ref: string;
  readonly aim: Aim | null;
  readonly proposedInto: string | null;
  readonly trust: Proposed['trust'];
}

/**
 * Where a build goes, its rules called as the map calls them now. Builds that are older than maps are asked about now.
 */
export async function aimOfBuild(db: Db | Tx, project: ProjectRow, build: Aimed): Promise<Aim> {
  const map = await mapOf(db, project);
  if (build.aim != null)
    return { ...build.aim, rules: build.aim.rules.map((name) => presentName(map, name)) };
  const ref = readRefName(build.ref);
  if (ref === undefined) return { map: map.version, rules: [], why: '' };
  const { proposedInto: into, trust } = build;
  return aimOf(map, destinationFor(map, ref, into === null ? null : { into, trust }));
}
