import { setTimeout as pause } from 'node:timers/promises';
import { type MapReply, readNewMap } from '@vaquero/contracts';
import { type DeliveryMap, entranceOf, ruleAfter, ruleNamed, rulesGone } from '@vaquero/core';
import { lastSet } from '../audit/last-set-rows.ts';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { requireSeen } from '../base/require-seen.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import {
  type EnvironmentRow,
  environmentsOf,
  insertEnvironment,
  renameEnvironment,
} from '../environments/environment-rows.ts';
import { endEnvironment } from '../environments/family-rows.ts';
import { releaseOffered } from '../intakes/intake-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { writeVersion } from '../map/write-version.ts';
import type { Caller } from '../people/caller.ts';
import { insertFormerName } from '../projects/former-name-rows.ts';
import { lockProject, type ProjectRow, projectById } from '../projects/project-rows.ts';
import { publishTable } from '../routing/publish-table.ts';
import { renamePlaceOfValues } from '../variables/rename-place.ts';
import { dropVariable, variablesOf } from '../variables/variable-rows.ts';
import { viewMap } from '../views/view-map.ts';
import { keepFamilies } from './keep-families.ts';

/** How long the reply waits for what the map starts. */
const startsWithinMs = 1_000;

/** A map that somebody sets. */
export interface MapWish {
  readonly text: string;
  readonly reason: string;
  /** Names of environments that are meant to end by it. */
  readonly ends: readonly string[];
}

/**
 * Sets a project's map anew. Environments are made, renamed and put in their lanes with it; what its rules start or end of
 * families follows at once.
 * Refuses: map-invalid, changed-since, environments-would-end, name-taken.
 */
export async function setMap(
  deps: Deps,
  project: ProjectRow,
  wish: MapWish,
  { caller, seen }: { readonly caller: Caller; readonly seen: string | null },
): Promise<MapReply> {
  orRefuse(readNewMap(wish.text, 1, project.branch));
  await inTransaction(deps.db, async (tx) => {
    await lockProject(tx, project.id);
    const locked = await projectById(tx, project.id);
    await requireSeen(seen, 'map', String(locked.mapVersion), () =>
      lastSet(deps.db, project.id, 'map.set'),
    );
    const before = await mapOf(tx, locked);
    const version = locked.mapVersion + 1;
    const map = orRefuse(readNewMap(wish.text, version, locked.branch));
    const made = { deps, tx, project: locked, map, caller };
    const ended = await endGone(made, before, wish.ends);
    await dropValuesOfGone(made, before);
    await renameAndPlace(made, before);
    const begun = await makeMissing(made);
    for (const row of await environmentsOf(tx, project.id)) {
      const rule = ruleNamed(map, row.rule);
      if (rule !== undefined && entranceOf(rule) === 'by-itself') await releaseOffered(tx, row.id);
    }
    const { text, reason } = wish;
    const next = { version, text, reason, made: begun, ended };
    await writeVersion(tx, locked, next, { ...caller, at: deps.clock() });
  });
  const now = await projectById(deps.db, project.id);
  // The map is set; what it starts is found again by the loop, should this not come to its end. Hundreds of previews
  // that start go on starting behind the reply.
  const kept = keepFamilies(deps, now).catch((err: unknown) =>
    deps.log.warn({ err, project: project.name }, 'its families were not kept'),
  );
  await Promise.race([kept, pause(startsWithinMs, null, { ref: false })]);
  await deps.edges.confirmed(await publishTable(deps), 1_000);
  return viewMap(deps, now);
}

interface Setting {
  readonly deps: Deps;
  readonly tx: Tx;
  readonly project: ProjectRow;
  readonly map: DeliveryMap;
  readonly caller: Caller;
}

/** Ends what has no rule any more. Refuses (environments-would-end) where the call does not name all of it. */
async function endGone(
  { deps, tx, project, map, caller }: Setting,
  before: DeliveryMap,
  named: readonly string[],
): Promise<readonly string[]> {
  const gone = new Set(rulesGone(before, map).map(({ name }) => name));
  const ending = (await environmentsOf(tx, project.id)).filter(({ rule }) => gone.has(rule));
  const unnamed = ending.map(({ name }) => name).filter((name) => !named.includes(name));
  if (unnamed.length > 0) return refused({ code: 'environments-would-end', environments: unnamed });
  for (const row of ending) await endEnvironment(deps, tx, project, row, 'unruled', caller.doing);
  return ending.map(({ name }) => name);
}

/** Takes the values of rules away that are gone: whatever gets such a name later inherits nothing by accident. */
async function dropValuesOfGone(
  { deps, tx, project, map, caller }: Setting,
  before: DeliveryMap,
): Promise<void> {
  const gone = new Set(rulesGone(before, map).map(({ name }) => name));
  const rows = await variablesOf(tx, project.id);
  for (const { name, environment } of rows.filter((row) => gone.has(row.environment))) {
    await dropVariable(tx, project.id, environment, name);
    decide(tx, {
      at: deps.clock(),
      kind: 'variable.dropped',
      project,
      doing: caller.doing,
      why: `the map has no ${environment} any more`,
      facts: { name, environment },
    });
  }
}

/** Gives what lives its rule's new name and its lane. Refuses (name-taken) where a name is another's. */
async function renameAndPlace(
  { deps, tx, project, map }: Setting,
  before: DeliveryMap,
): Promise<void> {
  for (const { name } of before.environments) {
    const to = ruleAfter(before, map, name)?.name ?? name;
    if (to !== name) await renamePlaceOfValues(deps, tx, project.id, { from: name, to });
  }
  const rows = await environmentsOf(tx, project.id);
  const moves = rows.flatMap((row) => {
    const rule = ruleNamed(before, row.rule) && ruleAfter(before, map, row.rule);
    if (rule === undefined) return [];
    const place = map.environments.indexOf(rule);
    const name = row.ref === null ? rule.name : row.name;
    return [{ row, name, rule: rule.name, place }];
  });
  for (const { row, name } of moves) if (name !== row.name) requireFree(rows, name, row);
  for (const { row, ...now } of moves)
    if (row.name !== now.name || row.rule !== now.rule || row.place !== now.place)
      await renameEnvironment(tx, row, now);
  // Its address leads to the new one for a while.
  for (const { row, name } of moves)
    if (name !== row.name)
      await insertFormerName(tx, {
        id: deps.newId(),
        projectId: project.id,
        environmentId: row.id,
        name: row.name,
        at: deps.clock(),
      });
}

/** Makes the environments that the map has rules for and that are not there. Refuses: name-taken. */
async function makeMissing({
  deps,
  tx,
  project,
  map,
  caller,
}: Setting): Promise<readonly string[]> {
  const rows = await environmentsOf(tx, project.id);
  const missing = map.environments.filter(
    ({ name, kind }) =>
      kind !== 'each' && !rows.some((row) => row.ref === null && row.rule === name),
  );
  for (const { name } of missing) {
    requireFree(rows, name, null);
    const place = map.environments.findIndex((rule) => rule.name === name);
    const id = deps.newId();
    await insertEnvironment(tx, { id, projectId: project.id, name, rule: name, place });
    decide(tx, {
      at: deps.clock(),
      kind: 'environment.made',
      project,
      doing: caller.doing,
      facts: { environment: name, rule: name, ref: null },
    });
  }
  return missing.map(({ name }) => name);
}

function requireFree(
  rows: readonly EnvironmentRow[],
  name: string,
  but: EnvironmentRow | null,
): void {
  if (rows.some((row) => row.name === name && row.id !== but?.id))
    refused({ code: 'name-taken', name, free: [] });
}
