import { nameOfRef } from '../refs/pull-request.ts';
import { branchOf, type RefName } from '../refs/ref-name.ts';

/** A rule of the map: where an environment's artifacts come from. */
export type EnvironmentRule =
  | { readonly name: string; readonly follows: { readonly branch: string } }
  | { readonly name: string; readonly accepts: { readonly from: string } };

/** A project's map: its environments in lane order, top first; bytes move upward. */
export interface DeliveryMap {
  readonly version: number;
  readonly environments: readonly EnvironmentRule[];
}

/** The map every project starts with: a push goes to staging, production takes what staging serves. */
export function mapOne(trunk: string): DeliveryMap {
  return {
    version: 1,
    environments: [
      { name: 'production', accepts: { from: 'staging' } },
      { name: 'staging', follows: { branch: trunk } },
    ],
  };
}

/** Where a ref goes, and why, in words for people. */
export interface Destination {
  readonly environments: readonly string[];
  readonly why: string;
}

/** Says which environments want a ref. An empty list is an answer too: it says what would be wanted. */
export function destinationOf(map: DeliveryMap, ref: RefName): Destination {
  const branch = branchOf(ref);
  const followed = map.environments.flatMap((rule) => ('follows' in rule ? [rule] : []));
  const wanting = followed.filter((rule) => rule.follows.branch === branch);
  if (wanting.length > 0) {
    const names = wanting.map((rule) => rule.name);
    return { environments: names, why: `${names.join(' and ')} follows ${branch}` };
  }
  const wanted = followed.map((rule) => `${rule.name} follows ${rule.follows.branch}`).join(', ');
  return { environments: [], why: `no environment wants ${nameOfRef(ref)}: ${wanted}` };
}

/** The environment whose artifacts this one accepts; null when it follows refs by itself. */
export function acceptsFrom(map: DeliveryMap, environment: string): string | null {
  const rule = map.environments.find((each) => each.name === environment);
  return rule !== undefined && 'accepts' in rule ? rule.accepts.from : null;
}
