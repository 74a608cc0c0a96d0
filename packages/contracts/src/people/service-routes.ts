import { z } from 'zod';
import { route } from '../http/route.ts';
import { line, nothing, projectRole } from '../vocabulary.ts';
import { tokenSeen } from './people-routes.ts';

export const serviceSeen = z
  .object({
    name: z.string(),
    shownAs: z.string(),
    /** What it may in its project; null where that was taken. */
    role: projectRole.nullable(),
    tokens: z.array(tokenSeen),
  })
  .meta({ id: 'Service' });

const servicesReply = z.object({ services: z.array(serviceSeen) });

export const listServicesRoute = route({
  method: 'GET',
  path: '/api/projects/:project/services',
  summary: 'Lists the services of a project: members that are programs, with their tokens',
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: servicesReply,
});
export const makeServiceRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/services/:service',
  summary: 'Makes a service of a project, with a role there',
  refuses: ['name-invalid', 'name-taken', 'above-own-role', 'token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({ shownAs: line.max(100), role: projectRole }),
  reply: servicesReply,
});
export const endServiceRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/services/:service',
  summary: 'Ends a service: its role and all of its tokens',
  refuses: ['token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: servicesReply,
});
/** The secret of a token is in this reply and nowhere else, ever. It reaches this project alone, whatever the service may. */
export const makeServiceTokenRoute = route({
  method: 'POST',
  path: '/api/projects/:project/services/:service/tokens',
  summary: 'Makes a token of a service; its secret is shown this once',
  refuses: ['not-found', 'above-own-role', 'token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({
    name: line,
    days: z.number().int().min(1).max(366).default(90),
    /** Environments or families by name; null for every one. One that names some reads, and acts on those alone. */
    environments: z.array(z.string().max(40)).min(1).max(50).nullable().default(null),
  }),
  reply: tokenSeen.extend({ secret: z.string() }),
  showsOnce: 'token',
});
export const endServiceTokenRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/services/:service/tokens/:token',
  summary: 'Takes a token of a service back',
  refuses: ['token-too-narrow'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: servicesReply,
});
export type ServiceSeen = z.output<typeof serviceSeen>;
