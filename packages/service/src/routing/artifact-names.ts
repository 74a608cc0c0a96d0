import type { roleRoutes } from '@vaquero/contracts';
import {
  type Admits,
  admitsOf,
  type DeliveryMap,
  readArtifactHost,
  strictest,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { Aim } from '../database/kept-shapes.ts';
import { mapOf } from '../map/map-rows.ts';
import { artifactOf, buildsThatMade, mostLookedAt } from './artifact-name-rows.ts';

type NamedArtifact = roleRoutes.NamedArtifact;

/** So many builds are told of one artifact; it is as closed as the most closed of all of them. */
const mostTold = 20;

/** What the own address of an artifact stands for; null when nothing has it, or nothing any more. */
export async function artifactAt(deps: Deps, host: string): Promise<NamedArtifact | null> {
  const address = readArtifactHost(host, deps.config.artifactsBase);
  if (address === undefined) return null;
  const of = await artifactOf(deps.db, address);
  if (of === undefined) return null;
  const rows = await buildsThatMade(deps.db, of);
  const made = await Promise.all(
    rows.map(async ({ map, aim, trust, ...row }) => ({
      ...row,
      outsider: trust === 'outsider',
      admits: closedAs(await mapOf(deps.db, map), aim),
    })),
  );
  if (made.length === 0) return null;
  const isMore = made.length === mostLookedAt;
  const admits = strictest([...made.map((one) => one.admits), ...(isMore ? closed : [])]);
  return { artifact: of.digest, admits, builds: made.slice(0, mostTold) };
}

const closed: readonly Admits[] = ['members'];

/** An artifact's own addresses are as closed as the most closed environment that wanted its build; what none wanted is for members. */
function closedAs(map: DeliveryMap, aim: Aim | null): Admits {
  return strictest((aim?.rules ?? []).map((rule) => admitsOf(map, rule)));
}
