import { type GroupSeen, groupRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';
import { grantsOf } from '../people/grant-rows.ts';
import { membersOfGroups } from '../people/group-rows.ts';
import { endGroup, makeGroup, setGroupMember } from '../people/groups.ts';
import { membersOfKind } from '../people/people-rows.ts';
import { allProjects } from '../projects/project-rows.ts';

/** Serves groups: made, joined, left, ended by operators. */
export function serveGroups(app: Express, deps: Deps): void {
  serve(app, deps, groupRoutes.listGroupsRoute, () => viewGroups(deps));
  serve(app, deps, groupRoutes.makeGroupRoute, async ({ params, body, caller }) => {
    await makeGroup(deps, { name: params.group, shownAs: body.shownAs, caller });
    return viewGroups(deps);
  });
  serve(app, deps, groupRoutes.endGroupRoute, async ({ params, caller }) => {
    await endGroup(deps, { name: params.group, caller });
    return viewGroups(deps);
  });
  for (const [route, isIn] of [
    [groupRoutes.joinGroupRoute, true],
    [groupRoutes.leaveGroupRoute, false],
  ] as const)
    serve(app, deps, route, async ({ params, caller }) => {
      await setGroupMember(deps, { name: params.group, person: params.person, isIn, caller });
      return viewGroups(deps);
    });
}

async function viewGroups(deps: Deps): Promise<{ groups: GroupSeen[] }> {
  const [groups, members, projects] = await Promise.all([
    membersOfKind(deps.db, 'group', null),
    membersOfGroups(deps.db),
    allProjects(deps.db),
  ]);
  const names = new Map(projects.map(({ id, name }) => [id, name]));
  return {
    groups: await Promise.all(
      groups.map(async ({ id, name, shownAs }) => ({
        name,
        shownAs,
        people: [...(members.get(id) ?? [])],
        grants: (await grantsOf(deps.db, id)).map(({ project, role }) => ({
          project: project === null ? null : (names.get(project) ?? project),
          role,
        })),
      })),
    ),
  };
}
