import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, line, nothing, role } from '../vocabulary.ts';

export const groupSeen = z
  .object({
    name: z.string(),
    shownAs: z.string(),
    people: z.array(z.object({ name: z.string(), shownAs: z.string(), since: at })),
    grants: z.array(z.object({ project: z.string().nullable(), role })),
  })
  .meta({ id: 'Group' });

const groupsReply = z.object({ groups: z.array(groupSeen) });

export const listGroupsRoute = route({
  method: 'GET',
  path: '/api/groups',
  summary: 'Lists groups, who is in them, and what they were granted',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: groupsReply,
});
/** People, groups and services share one name space; a name that ended is given to nobody else, since maps may name it. */
export const makeGroupRoute = route({
  method: 'PUT',
  path: '/api/groups/:group',
  summary: 'Makes a group, with nobody in it and nothing granted',
  refuses: ['name-invalid', 'name-taken'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ shownAs: line.max(100) }),
  reply: groupsReply,
});
export const endGroupRoute = route({
  method: 'DELETE',
  path: '/api/groups/:group',
  summary: 'Ends a group: what it was granted ends for everybody in it',
  refuses: ['no-group'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: groupsReply,
});
export const joinGroupRoute = route({
  method: 'PUT',
  path: '/api/groups/:group/people/:person',
  summary: 'Puts a person into a group',
  refuses: ['no-group'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: groupsReply,
});
export const leaveGroupRoute = route({
  method: 'DELETE',
  path: '/api/groups/:group/people/:person',
  summary: 'Takes a person out of a group',
  refuses: ['no-group'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: groupsReply,
});
export type GroupSeen = z.output<typeof groupSeen>;
