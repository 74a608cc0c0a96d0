import { type Access, protocol, protocolHeader } from '@vaquero/contracts';
import { isAmong, type MapAct, ruleNamed, type WhoMay, whoInWords, whoMay } from '@vaquero/core';
import type { Request } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { AttemptRow } from '../builds/attempt-rows.ts';
import { type EnvironmentRow, environmentOfProject } from '../environments/environment-rows.ts';
import type { Known, Who } from '../http/who.ts';
import { mapOf } from '../map/map-rows.ts';
import { actingOn, type Caller, maySee, refuseRole, requireAbility } from '../people/caller.ts';
import { projectFormerly } from '../projects/former-name-rows.ts';
import { type ProjectRow, projectByName } from '../projects/project-rows.ts';
import { attemptOf } from './attempt-of.ts';
import { authenticate } from './authenticate.ts';
import { type Machine, machineOf } from './machine-of.ts';

interface InProject {
  readonly caller: Caller;
  readonly project: ProjectRow;
}

declare module '../http/who.ts' {
  interface Known {
    readonly open: Record<never, never>;
    readonly role: { readonly machine: Machine };
    readonly attempt: { readonly attempt: AttemptRow };
    readonly self: { readonly caller: Caller };
    readonly installation: { readonly caller: Caller };
    readonly project: InProject;
    readonly values: InProject;
    readonly environment: InProject & { readonly environment: EnvironmentRow };
  }
}

/**
 * Finds out who calls, and refuses whoever may not make the call, before anything of it is read.
 * Refuses: not-signed-in, forged-request, token-git-only, attempt-over, not-allowed, and not-found where the caller may
 * not see what the path names.
 */
export async function whoCalls<A extends Access>(
  deps: Deps,
  access: A,
  req: Request,
): Promise<Who<A>> {
  return (await guards[access.in](deps, access as never, req)) as Who<A>;
}

type Guards = {
  readonly [In in Access['in']]: (
    deps: Deps,
    access: Extract<Access, { readonly in: In }>,
    req: Request,
  ) => Promise<Known[In]>;
};

const guards: Guards = {
  open: () => Promise.resolve({}),
  role: async (deps, { role }, req) => {
    const machine = await machineOf(deps, req, role);
    requireProtocol(req);
    return { machine };
  },
  attempt: async (deps, _access, req) => {
    const attempt = await attemptOf(deps, req);
    requireProtocol(req);
    return { attempt };
  },
  self: async (deps, _access, req) => ({ caller: await authenticate(deps, req) }),
  installation: async (deps, { ability }, req) => {
    const caller = await authenticate(deps, req);
    requireAbility(caller, ability, null);
    return { caller };
  },
  project: async (deps, { ability }, req) => {
    const name = String(req.params.project ?? '');
    // Side by side, to save a round trip: what is known of the project is told only to who may see it.
    const [caller, found] = await Promise.all([
      authenticate(deps, req),
      projectByName(deps.db, name),
    ]);
    const project = await presentProject(deps, caller, { found, name, req });
    requireAbility(caller, ability, project);
    return { caller, project };
  },
  environment: async (deps, { act }, req) => {
    const names = {
      project: String(req.params.project ?? ''),
      environment: String(req.params.environment ?? ''),
    };
    const [caller, found] = await Promise.all([
      authenticate(deps, req),
      environmentOfProject(deps.db, names),
    ]);
    const project = await presentProject(deps, caller, {
      found: found?.project,
      name: names.project,
      req,
    });
    const environment =
      found?.environment ??
      refused({ code: 'not-found', what: 'environment', name: names.environment });
    const rule = ruleNamed(await mapOf(deps.db, project), environment.rule);
    const who = whoMay(rule?.may ?? {}, environment.place, act);
    const acting = actingOn(caller, project, environment);
    if (!isAmong(who, acting, project.id)) refuseAct(caller, project, environment.name, act, who);
    return { caller, project, environment };
  },
  values: async (deps, _access, req) => {
    const read = { in: 'project', ability: 'read' } as const;
    const { caller, project } = await guards.project(deps, read, req);
    const named = req.query.environment;
    if (named === undefined || named === '') {
      requireAbility(caller, 'maintain', project);
      return { caller, project };
    }
    const name = String(named);
    const map = await mapOf(deps.db, project);
    const place = map.environments.findIndex((rule) => rule.name === name);
    // A place that the map has no longer is left to those who set the map.
    const who = whoMay(map.environments[place]?.may ?? {}, place, 'values');
    const acting = actingOn(caller, project, { name, rule: name });
    if (!isAmong(who, acting, project.id)) refuseAct(caller, project, name, 'values', who);
    return { caller, project };
  },
};

/** Says who may instead: a role that is lacking, or those whom the map names. */
function refuseAct(
  caller: Caller,
  project: ProjectRow,
  name: string,
  act: MapAct,
  who: WhoMay,
): never {
  if (typeof who === 'string' && who !== 'nobody') return refuseRole(caller, who, project);
  return refused({
    code: 'map-says-who',
    environment: name,
    act: actInWords[act],
    who: whoInWords(who),
  });
}

const actInWords: Readonly<Record<MapAct, string>> = {
  promote: 'promote to',
  'roll-back': 'roll back',
  hold: 'lift holds of',
  end: 'end',
  values: 'set values of',
};

/** The version of the protocol that a runner or an edge speaks; those that name none are of the first. */
export function protocolOf(req: Request): number {
  const named = req.headers[protocolHeader];
  return typeof named === 'string' && /^\d{1,6}$/.test(named) ? Number(named) : 1;
}

/** Refuses (other-protocol) whoever speaks neither this version of the protocol nor the one before. */
function requireProtocol(req: Request): void {
  const speaks = protocolOf(req);
  const understood = [protocol - 1, protocol];
  if (!understood.includes(speaks)) refused({ code: 'other-protocol', speaks, understood });
}

/**
 * The project that a call is about. One that was called so lately is named with its present address; of one that has ended
 * nothing is changed. Refuses: not-found, project-renamed, project-ended.
 */
async function presentProject(
  deps: Deps,
  caller: Caller,
  {
    found,
    name,
    req,
  }: { readonly found: ProjectRow | undefined; readonly name: string; readonly req: Request },
): Promise<ProjectRow> {
  if (found === undefined) {
    const now = await projectFormerly(deps.db, name, deps.clock());
    if (now !== undefined && maySee(caller, now.id)) {
      const location = req.originalUrl.replace(
        /^\/api\/projects\/[^/?]*/,
        `/api/projects/${encodeURIComponent(now.name)}`,
      );
      return refused({ code: 'project-renamed', name, now: now.name, location });
    }
  }
  const project = seenBy(caller, found, name);
  const isReading = req.method === 'GET' || req.method === 'HEAD';
  return project.endedAt === null || isReading
    ? project
    : refused({ code: 'project-ended', name, at: project.endedAt });
}

/** A project that the caller may see. Refuses: not-found, also where they may not. */
export function seenBy(caller: Caller, project: ProjectRow | undefined, name: string): ProjectRow {
  if (project === undefined || !maySee(caller, project.id))
    return refused({ code: 'not-found', what: 'project', name });
  return project;
}
