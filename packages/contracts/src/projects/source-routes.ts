import { z } from 'zod';
import { route } from '../http/route.ts';
import { line, nothing, reason } from '../vocabulary.ts';
import { projectSeen } from './project-routes.ts';

const source = z.object({ branch: z.string(), folder: z.string() });

/** What of its repository a project is built from. */
const sourceReply = source.extend({
  /** Names what was read: a call that sets it anew says which it saw. */
  version: z.string(),
  /** Branches that there are, two hundred at most. */
  branches: z.array(z.string()),
});
export type SourceReply = z.output<typeof sourceReply>;

const wanted = z.strictObject({ branch: line, folder: z.string().max(255) });

export const showSourceRoute = route({
  method: 'GET',
  path: '/api/projects/:project/source',
  summary: 'Shows which branch and folder of its repository a project is built from',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: sourceReply,
  tag: ({ version }) => version,
});
export const trySourceRoute = route({
  method: 'POST',
  path: '/api/projects/:project/source/trials',
  summary:
    'What would change if a project were built from another branch or folder: nothing is written',
  refuses: ['branch-missing'],
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: wanted,
  reply: z.object({
    /** What would be set, as it is written. */
    source,
    head: projectSeen.shape.head,
    /** What would change, a sentence each; none where nothing does. */
    says: z.array(z.string()),
    /** The recipes that its newest commit would be built by. */
    recipes: z.array(
      z.object({
        name: z.string(),
        /** The file, or where it comes from otherwise; null where it cannot be read. */
        from: z.enum(['file', 'accepted', 'proposed']).nullable(),
        steps: z.array(z.string()),
        /** What stands in its way. */
        failure: z.string().nullable(),
      }),
    ),
  }),
});
export type SourceTrial = z.output<typeof trySourceRoute.reply>;
export const setSourceRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/source',
  summary: 'Has a project built from another branch or folder of its repository from now on',
  refuses: ['branch-missing', 'changed-since'],
  access: { in: 'project', ability: 'maintain' },
  edits: true,
  query: nothing,
  body: wanted.extend({ reason }),
  reply: sourceReply,
  tag: ({ version }) => version,
});
