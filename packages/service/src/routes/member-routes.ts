import { type MembersReply, memberRoutes } from '@vaquero/contracts';
import { type Instant, may, roleIn } from '@vaquero/core';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { fromOf, refuseForged } from '../callers/authenticate.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { requireWhole } from '../people/caller.ts';
import { everybody, grantsOf, membersOf } from '../people/grant-rows.ts';
import { type InvitationView, openInvitations } from '../people/invitation-rows.ts';
import { endInvitation, type Invited, invitationOf, invite, join } from '../people/invite.ts';
import { markBrowser } from '../people/known-browser.ts';
import { lastSeen } from '../people/people-rows.ts';
import { takesFactor } from '../people/second-factor.ts';
import { namesHavingFactor } from '../people/second-factor-rows.ts';
import { setRole } from '../people/set-grant.ts';
import { openSession } from '../people/sign-in.ts';
import { allProjects, type ProjectRow, projectById } from '../projects/project-rows.ts';
import { meOf, setCookie } from './people-routes.ts';
import { neverAgain, serveAct } from './serve-act.ts';

/** Serves who may do what: shown, granted, ended. */
export function serveMembers(app: Express, deps: Deps): void {
  serve(app, deps, memberRoutes.listMembersRoute, ({ project }) => viewMembers(deps, project));
  serve(app, deps, memberRoutes.grantRoute, async ({ project, params, body, caller }) => {
    await setRole(deps, { project, name: params.person, role: body.role, caller });
    return viewMembers(deps, project);
  });
  serve(app, deps, memberRoutes.endGrantRoute, async ({ project, params, caller }) => {
    await setRole(deps, { project, name: params.person, role: null, caller });
    return viewMembers(deps, project);
  });
  serve(app, deps, memberRoutes.listPeopleRoute, async () => {
    const all = await everybody(deps.db);
    const [seen, projects, open, having] = await Promise.all([
      lastSeen(
        deps.db,
        all.map(({ name }) => name),
      ),
      allProjects(deps.db),
      openInvitations(deps.db, null, deps.clock()),
      namesHavingFactor(deps.db),
    ]);
    const names = new Map(projects.map(({ id, name }) => [id, name]));
    return {
      people: all.map(({ name, shownAs, kind, groups, grants }) => ({
        name,
        shownAs,
        kind,
        groups: [...groups],
        grants: grants.map(({ project, role, group }) => ({
          project: project === null ? null : (names.get(project) ?? project),
          role,
          group,
        })),
        lastSeenAt: seen.get(name) ?? null,
        hasFactor: having.has(name),
      })),
      invitations: open.map(viewInvitation),
    };
  });
  serve(app, deps, memberRoutes.grantEverywhereRoute, async ({ params, body, caller }) => {
    await setRole(deps, { project: null, name: params.person, role: body.role, caller });
    return { name: params.person, role: body.role };
  });
}

/** Serves invitations: made, taken back, shown to whoever has one, used. */
export function serveInvitations(app: Express, deps: Deps): void {
  serveAct(
    app,
    deps,
    memberRoutes.inviteRoute,
    ({ project, body, caller }, note) =>
      inTransaction(deps.db, async (tx) => {
        // Who comes by it stays longer than the token.
        requireWhole(caller, 'invite somebody');
        const made = await invite(deps, tx, { project, ...body, caller });
        return [await note(tx, made.row.id), viewInvited(made, caller.shownAs)] as const;
      }),
    neverAgain,
  );
  serveAct(
    app,
    deps,
    memberRoutes.inviteEverywhereRoute,
    ({ body, caller }, note) =>
      inTransaction(deps.db, async (tx) => {
        const made = await invite(deps, tx, { project: null, ...body, caller });
        return [await note(tx, made.row.id), viewInvited(made, caller.shownAs)] as const;
      }),
    neverAgain,
  );
  serve(app, deps, memberRoutes.endInvitationRoute, async ({ project, params, caller }) => {
    await endInvitation(deps, { project, id: params.invitation, caller });
    return viewMembers(deps, project);
  });
  serve(app, deps, memberRoutes.showInvitationRoute, async ({ body }) => {
    const { row, by } = await invitationOf(deps, body.key);
    const project = row.projectId === null ? null : await projectById(deps.db, row.projectId);
    return {
      project: project?.name ?? null,
      role: row.role,
      by,
      expiresAt: row.expiresAt as Instant,
    };
  });
  serve(app, deps, memberRoutes.joinRoute, async ({ body, req, res }) => {
    // One forged by another page would put the visitor into an account of somebody else's.
    refuseForged(deps, req);
    const person = await join(deps, body, fromOf(req));
    // Neither a link nor an invitation takes the place of a second factor: then they sign in like everybody.
    if (!(await takesFactor(deps, person))) {
      const session = await openSession(deps, person, fromOf(req));
      setCookie(res, session.secret, Math.floor((session.expiresAt - deps.clock()) / 1000));
      markBrowser(deps, res, person);
    }
    return meOf(deps, { ...person, grants: await grantsOf(deps.db, person.id), by: 'session' });
  });
}

async function viewMembers(deps: Deps, project: ProjectRow): Promise<MembersReply> {
  const [all, open] = await Promise.all([
    membersOf(deps.db, [project.id]),
    openInvitations(deps.db, project.id, deps.clock()),
  ]);
  const seen = await lastSeen(
    deps.db,
    all.map(({ name }) => name),
  );
  return {
    members: all
      .filter(({ grants }) => may(grants, 'read', project.id))
      .map(({ name, shownAs, kind, grants }) => {
        const role = roleIn(grants, project.id) ?? 'reader';
        const here = grants.filter((grant) => grant.project === project.id && grant.role === role);
        // One of their own stands before one that a group has.
        const by = here.find((grant) => grant.group === null) ?? here[0];
        return {
          name,
          shownAs,
          kind,
          role,
          group: by?.group ?? null,
          people: all.flatMap((one) => (one.groups.includes(name) ? [one.shownAs] : [])),
          everywhere: by === undefined,
          lastSeenAt: seen.get(name) ?? null,
        };
      }),
    invitations: open.map(viewInvitation),
  };
}

function viewInvitation({ row, by }: InvitationView) {
  const { id, role, madeAt, expiresAt } = row;
  return { id, role, by, madeAt: madeAt as Instant, expiresAt: expiresAt as Instant };
}

function viewInvited({ row, address }: Invited, by: string) {
  return { ...viewInvitation({ row, by }), address };
}
