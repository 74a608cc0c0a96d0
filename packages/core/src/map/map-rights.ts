import { type Grant, hasRole, may, type Role } from '../people/may.ts';
import { isTop } from './delivery-map.ts';

/** What people do to an environment; `values` is setting what its builds are given by name. */
export const mapActs = ['promote', 'roll-back', 'hold', 'end', 'values'] as const;
export type MapAct = (typeof mapActs)[number];

/** Who may: everybody from a role on, nobody, or people and groups by their names. */
export type WhoMay = Role | 'nobody' | readonly string[];

/**
 * What a rule of the map says of acts; what it leaves out is for maintainers where it is values, for releasers at the top
 * and for holds, for builders elsewhere.
 */
export type ActsAllowed = Readonly<Partial<Record<MapAct, WhoMay>>>;

/** Who may do something to an environment, by its rule and its place among the lanes. */
export function whoMay(allowed: ActsAllowed, place: number, act: MapAct): WhoMay {
  if (act === 'values') return allowed.values ?? 'maintainer';
  return allowed[act] ?? (act === 'hold' || isTop(place) ? 'releaser' : 'builder');
}

/** A person as far as rights go. */
export interface Acting {
  readonly name: string;
  /** The groups that they are in, by name: a map's list may name those, too. */
  readonly groups: readonly string[];
  readonly grants: readonly Grant[];
}

/** Whether somebody is among those who may. Nobody is above the map: whoever may set it can change it, and that is on record. */
export function isAmong(who: WhoMay, { name, groups, grants }: Acting, project: string): boolean {
  if (who === 'nobody') return false;
  if (typeof who !== 'string')
    return [name, ...groups].some((one) => who.includes(one)) && may(grants, 'read', project);
  return hasRole(grants, who, project);
}

/** Those who may, in words. */
export function whoInWords(who: WhoMay): string {
  if (typeof who !== 'string') return who.join(' and ') || 'nobody';
  return who === 'nobody' ? 'nobody' : `a ${who}`;
}
