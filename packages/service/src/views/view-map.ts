import { type MapDifferenceSeen, type MapReply, placeWarnings } from '@vaquero/contracts';
import {
  compareMaps,
  compareRights,
  type DeliveryMap,
  type EnvironmentRule,
  type Head,
  mapWarnings,
  nameOfRef,
  ruleInWords,
  rulesGone,
  sourceOf,
  wants,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible } from '../base/refused.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { mapOf, versionsOf } from '../map/map-rows.ts';
import { headsOf, presentOf } from '../map/present.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { variablesOf } from '../variables/variable-rows.ts';
import { peopleReaching } from './view-reach.ts';

const mostMatches = 50;
const mostMoves = 200;
const mostRefs = 500;

/** The map in force: its text, who set it and why, and what each rule matches now. */
export async function viewMap(deps: Deps, project: ProjectRow): Promise<MapReply> {
  const [map, [newest], heads, rows] = await Promise.all([
    mapOf(deps.db, project),
    versionsOf(deps.db, project.id, 1),
    headsOf(deps.db, project.repositoryId),
    environmentsOf(deps.db, project.id),
  ]);
  if (newest === undefined) throw new Impossible(`project ${project.id} has no map`);
  return {
    ...newest,
    tag: String(newest.version),
    trunk: map.trunk,
    rules: map.environments.map((rule, place) => {
      const living = rows.filter((row) => row.rule === rule.name).map(({ name }) => name);
      return viewRule(rule, place, heads, living);
    }),
    refs: heads.slice(0, mostRefs).map(({ ref, commit, into }) => ({
      ref,
      name: nameOfRef(ref),
      commit,
      into,
    })),
    refCount: heads.length,
    warnings: [...placeWarnings(newest.text, mapWarnings(map, heads))],
  };
}

function viewRule(
  rule: EnvironmentRule,
  place: number,
  heads: readonly Head[],
  environments: readonly string[],
): MapReply['rules'][number] {
  const matching = heads.filter(({ ref, into }) => wants(rule, ref, into));
  return {
    name: rule.name,
    kind: rule.kind,
    says: ruleInWords(rule),
    place,
    acceptsFrom: sourceOf(rule),
    overtaken: rule.overtaken,
    gives: rule.gives === 'every' ? null : [...rule.gives],
    family: rule.kind === 'each' ? { atMost: rule.atMost, ...rule.ends } : null,
    matches: matching
      .slice(0, mostMatches)
      .map(({ ref, commit }) => ({ ref, name: nameOfRef(ref), commit })),
    matchCount: matching.length,
    environments: [...environments],
  };
}

/** What would change if a map took the place of the one in force. */
export async function tryMap(
  deps: Deps,
  project: ProjectRow,
  text: string,
  map: DeliveryMap,
): Promise<{ difference: MapDifferenceSeen; warnings: MapReply['warnings'] }> {
  const before = await mapOf(deps.db, project);
  const [present, people, variables] = await Promise.all([
    presentOf(deps, project, [before, map]),
    peopleReaching(deps.db, project),
    variablesOf(deps.db, project.id),
  ]);
  const { rules, refs, starts, ends, leaves } = compareMaps(before, map, present);
  return {
    difference: {
      rules: [...rules],
      refs: refs.slice(0, mostMoves).map(({ ref, before: was, after }) => ({
        name: nameOfRef(ref),
        before: [...was],
        after: [...after],
      })),
      refCount: refs.length,
      starts: starts.map(({ rule, ref }) => ({ rule, name: nameOfRef(ref) })),
      ends: [...ends],
      leaves: [...leaves],
      rights: compareRights(before, map, people).map((one) => ({
        ...one,
        gains: [...one.gains],
        loses: [...one.loses],
      })),
      values: rulesGone(before, map).flatMap(({ name }) => {
        const own = variables.filter(({ environment }) => environment === name);
        return own.length === 0 ? [] : [{ rule: name, names: own.map((one) => one.name) }];
      }),
    },
    warnings: [...placeWarnings(text, mapWarnings(map, present.heads))],
  };
}
