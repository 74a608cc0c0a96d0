import { memberKinds } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, line, nothing, projectRole, role } from '../vocabulary.ts';
import { me } from './people-routes.ts';

export const memberSeen = z
  .object({
    name: z.string(),
    shownAs: z.string(),
    kind: z.enum(memberKinds),
    role,
    /** The group that this role comes by; null where it was granted to the member itself. */
    group: z.string().nullable(),
    /** Who is in it, if it is a group. */
    people: z.array(z.string()),
    /** Granted in the whole installation, so that it is not changed here. */
    everywhere: z.boolean(),
    /** When they last called or opened a session; null where nothing is known of it. */
    lastSeenAt: at.nullable(),
  })
  .meta({ id: 'Member' });

export const invitationSeen = z
  .object({
    id: z.string(),
    role,
    by: z.string(),
    madeAt: at,
    expiresAt: at,
  })
  .meta({ id: 'Invitation' });

export const membersReply = z.object({
  members: z.array(memberSeen),
  /** Those that wait to be used. */
  invitations: z.array(invitationSeen),
});

export const listMembersRoute = route({
  method: 'GET',
  path: '/api/projects/:project/members',
  summary: 'Lists who may do what in a project, and invitations that wait',
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: membersReply,
});
export const grantRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/members/:person',
  summary:
    'Grants a person or a group a role in a project, in place of the one that they had there',
  refuses: ['above-own-role', 'granted-everywhere', 'granted-by-group', 'token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({ role: projectRole }),
  reply: membersReply,
});
export const endGrantRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/members/:person',
  summary: 'Ends what a person or a group was granted in a project',
  refuses: ['above-own-role', 'granted-everywhere', 'granted-by-group', 'token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: membersReply,
});

/** Everybody of the installation. */
export const listPeopleRoute = route({
  method: 'GET',
  path: '/api/people',
  summary: 'Lists everybody, with what they were granted where',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: z.object({
    people: z.array(
      z.object({
        name: z.string(),
        shownAs: z.string(),
        kind: z.enum(memberKinds),
        /** The groups that they are in. */
        groups: z.array(z.string()),
        grants: z.array(
          z.object({ project: z.string().nullable(), role, group: z.string().nullable() }),
        ),
        lastSeenAt: at.nullable(),
        hasFactor: z.boolean(),
      }),
    ),
    invitations: z.array(invitationSeen),
  }),
});
/** A role in the whole installation; null takes it. */
export const grantEverywhereRoute = route({
  method: 'PUT',
  path: '/api/people/:person/role',
  summary: 'Grants a person or a group a role in the whole installation, or none',
  refuses: ['last-operator', 'above-own-role', 'granted-by-group', 'only-people-operate'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ role: role.nullable() }),
  reply: z.object({ name: z.string(), role: role.nullable() }),
});

const invited = invitationSeen.extend({ address: z.string() });

/** The link of an invitation is in this reply and nowhere else, ever; it works once, for seven days. */
export const inviteRoute = route({
  method: 'POST',
  path: '/api/projects/:project/invitations',
  summary: 'Invites somebody to a project by a link that works once',
  refuses: ['above-own-role', 'token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({ role: projectRole }),
  reply: invited,
  showsOnce: 'invitation',
});
export const inviteEverywhereRoute = route({
  method: 'POST',
  path: '/api/invitations',
  summary: 'Invites somebody to a role in the whole installation by a link that works once',
  refuses: ['above-own-role'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ role }),
  reply: invited,
  showsOnce: 'invitation',
});
export const endInvitationRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/invitations/:invitation',
  summary: 'Takes an invitation back',
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: membersReply,
});
/** What an invitation is to, for whoever has its link. */
export const showInvitationRoute = route({
  method: 'POST',
  path: '/api/invitations/shown',
  summary: 'Says what an invitation is to, by its key',
  refuses: ['invitation-over', 'too-many-tries'],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({ key: z.string().min(1).max(200) }),
  reply: z.object({ project: z.string().nullable(), role, by: z.string(), expiresAt: at }),
});
export const joinRoute = route({
  method: 'POST',
  path: '/api/invitations/used',
  summary: 'Uses an invitation: makes a person with a name and password, and opens a session',
  refuses: [
    'invitation-over',
    'name-invalid',
    'name-taken',
    'password-weak',
    'forged-request',
    'too-many-tries',
  ],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({
    key: z.string().min(1).max(200),
    name: z.string().min(1).max(100),
    shownAs: line.max(100),
    password: z.string().min(1).max(1000),
  }),
  reply: me,
});
export type MembersReply = z.output<typeof membersReply>;
