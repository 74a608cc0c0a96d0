import { type VariablesReply, variableRoutes } from '@vaquero/contracts';
import {
  type DeliveryMap,
  type Instant,
  isAmong,
  type Json,
  readCommitId,
  refOfBranch,
  ruleNamed,
  type WhoMay,
  whoInWords,
  whoMay,
} from '@vaquero/core';
import type { Express } from 'express';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused, refuseField } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { mapOf } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { recipesOfCommit } from '../recipes/recipes-of-commit.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { namesRead, placeOf } from '../variables/given-values.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import {
  dropVariable,
  putVariable,
  type VariableRow,
  variableAt,
  variablesOf,
} from '../variables/variable-rows.ts';

/** Serves variables and secrets: their list, setting one and dropping one. A secret's value never leaves again. */
export function serveVariables(app: Express, deps: Deps): void {
  serve(app, deps, variableRoutes.listVariablesRoute, ({ project, caller }) =>
    view(deps, project, caller),
  );
  serve(
    app,
    deps,
    variableRoutes.setVariableRoute,
    async ({ project, params, query, body, caller }) => {
      const name = nameOf(params.variable);
      const { environment } = query;
      await requireEnvironment(deps, project, environment);
      const { kind, value } = body;
      const row = { projectId: project.id, environment, name };
      const at = deps.clock();
      await inTransaction(deps.db, async (tx) => {
        const before = await variableAt(tx, row);
        const sealed = sealValue(deps.keys.sealing, placeOf(row), value);
        const set = { ...row, kind, sealed, setBy: caller.personId, setAt: at, usedAt: null };
        await putVariable(tx, set);
        decide(tx, {
          at,
          kind: 'variable.set',
          project,
          doing: caller.doing,
          facts: { name, environment, kind },
          before: digestOf(deps, before),
          after: digestOf(deps, set),
        });
      });
      return view(deps, project, caller);
    },
  );
  serve(app, deps, variableRoutes.dropVariableRoute, async ({ project, params, query, caller }) => {
    const name = params.variable;
    const { environment } = query;
    await inTransaction(deps.db, async (tx) => {
      const before = await variableAt(tx, { projectId: project.id, environment, name });
      if (!(await dropVariable(tx, project.id, environment, name)))
        return refused({ code: 'not-found', what: 'variable', name });
      decide(tx, {
        at: deps.clock(),
        kind: 'variable.dropped',
        project,
        doing: caller.doing,
        facts: { name, environment },
        before: digestOf(deps, before),
      });
    });
    return null;
  });
}

/** Refuses (invalid-request) what can be no variable's name. */
function nameOf(given: string): string {
  const read = variableRoutes.variableName.safeParse(given);
  return read.success ? read.data : refuseField('variable', read.error.issues[0]?.message ?? '');
}

/** What tells a value from another one without telling what it is. */
function digestOf(deps: Deps, row: VariableRow | undefined): Json {
  if (row === undefined) return null;
  return { value: deps.keys.keyed(openValue(deps.keys.sealing, placeOf(row), row.sealed)) };
}

async function requireEnvironment(deps: Deps, project: ProjectRow, name: string): Promise<void> {
  if (name === '') return;
  // Of a family all have the same values: they belong to its rule.
  if (ruleNamed(await mapOf(deps.db, project), name) === undefined)
    refused({ code: 'not-found', what: 'environment', name });
}

async function view(deps: Deps, project: ProjectRow, caller: Caller): Promise<VariablesReply> {
  const [rows, map] = await Promise.all([
    variablesOf(deps.db, project.id),
    mapOf(deps.db, project),
  ]);
  const set = new Set(rows.map((row) => row.name));
  return {
    variables: rows.map((row) => ({
      name: row.name,
      environment: row.environment,
      kind: row.kind,
      value: row.kind === 'secret' ? null : openValue(deps.keys.sealing, placeOf(row), row.sealed),
      by: row.by,
      setAt: row.setAt as Instant,
      usedAt: row.usedAt as Instant | null,
    })),
    places: placesOf(map, project, caller),
    unset: (await namesOfTrunk(deps, project)).filter((name) => !set.has(name)),
  };
}

/** Where values may be set: the whole project, and each rule whose builds are given some. */
function placesOf(map: DeliveryMap, project: ProjectRow, caller: Caller): VariablesReply['places'] {
  const place = (environment: string, who: WhoMay): VariablesReply['places'][number] => ({
    environment,
    who: whoInWords(who),
    may: isAmong(who, caller, project.id),
  });
  return [
    place('', 'maintainer'),
    ...map.environments.flatMap((rule, at) =>
      rule.kind === 'accepts' ? [] : [place(rule.name, whoMay(rule.may, at, 'values'))],
    ),
  ];
}

async function namesOfTrunk(deps: Deps, project: ProjectRow): Promise<readonly string[]> {
  const ref = refOfBranch(project.branch);
  const head =
    ref === undefined
      ? undefined
      : readCommitId((await refsKnown(deps.db, project.repositoryId)).get(ref) ?? '');
  if (head === undefined) return [];
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const all = await recipesOfCommit(deps, directory, project, head);
  return [...new Set(all.flatMap((one) => ('recipe' in one ? namesRead(one.recipe) : [])))];
}
