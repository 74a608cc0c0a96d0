import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, nothing, reason } from '../vocabulary.ts';
import { environmentSeen } from './environment-routes.ts';

/** An environment of a family, for those who look after many of them. */
const previewSeen = environmentSeen
  .pick({ name: true, address: true, admits: true, isLent: true, may: true })
  .extend({
    family: environmentSeen.shape.family.unwrap(),
    build: z.number().nullable(),
    /** Bytes of the artifact that it serves. */
    bytes: z.number().nullable(),
    startedAt: at.nullable(),
    lastPushAt: at.nullable(),
    lastVisitAt: at.nullable(),
  })
  .meta({ id: 'Preview' });
export type PreviewSeen = z.output<typeof previewSeen>;

export const listPreviewsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/previews',
  summary: 'Lists the environments of families: whose they are, of what, how long they live on',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.object({
    now: at,
    previews: z.array(previewSeen),
    /** Those that ended in the last thirty days, fifty at most, the newest end first. */
    ended: z.array(
      z.object({
        name: z.string(),
        endedAt: at,
        because: z.enum(['closed', 'untouched', 'crowded', 'asked', 'unruled', 'project']),
        /** Who ended it; null where nobody did. */
        by: z.string().nullable(),
      }),
    ),
  }),
});
export type PreviewsReply = z.output<typeof listPreviewsRoute.reply>;
/** It ends no sooner, whatever becomes of its ref. */
export const keepPreviewRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/environments/:environment/kept',
  summary: 'Keeps one environment of a family until some moment',
  refuses: ['not-a-family', 'map-says-who', 'kept-too-long', 'too-many-kept'],
  access: { in: 'environment', act: 'end' },
  query: nothing,
  body: z.strictObject({ until: at, reason: reason.default('') }),
  reply: previewSeen,
});
export const keepNoLongerRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/environments/:environment/kept',
  summary: 'Lets one environment of a family end when the map says so',
  refuses: ['not-a-family', 'map-says-who'],
  access: { in: 'environment', act: 'end' },
  query: nothing,
  body: nothing,
  reply: z.null(),
});
