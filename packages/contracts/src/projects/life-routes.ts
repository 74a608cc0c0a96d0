import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, line, nothing, reason } from '../vocabulary.ts';
import { projectSeen } from './project-routes.ts';

/** What would come of it, a sentence each. */
const outlook = z.object({ says: z.array(z.string()) });

export const tryRenameRoute = route({
  method: 'POST',
  path: '/api/projects/:project/name/trials',
  summary: 'What would change if a project were called otherwise: nothing is written',
  refuses: ['name-invalid', 'name-taken'],
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: z.strictObject({ name: line }),
  reply: outlook,
});
/** For thirty days its former addresses lead to the new ones with 308; an address that is taken anew does not. */
export const renameRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/name',
  summary: 'Has a project called otherwise, with its addresses',
  refuses: ['name-invalid', 'name-taken'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({ name: line, reason }),
  reply: projectSeen,
});
export const tryEndProjectRoute = route({
  method: 'POST',
  path: '/api/projects/:project/end/trials',
  summary: 'What the end of a project takes, and what stays: nothing is written',
  refuses: ['repository-shared'],
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: outlook,
});
/** Nothing brings it back; what it was stays to be read by those who may. */
export const endProjectRoute = route({
  method: 'POST',
  path: '/api/projects/:project/end',
  summary: 'Ends a project: its environments, values, services and pushes; its history stays',
  refuses: ['name-not-typed', 'repository-shared', 'token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({
    /** The name of the project once more. */
    typed: z.string().max(255),
    reason,
  }),
  reply: z.object({ name: z.string(), endedAt: at }),
});
