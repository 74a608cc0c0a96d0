import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, done, nothing } from '../vocabulary.ts';

export const runnerSeen = z
  .object({
    name: z.string(),
    labels: z.array(z.string()),
    /** How many builds it takes at once, and how many it builds now. */
    slots: z.number(),
    building: z.number(),
    /** It finishes what it builds and is given nothing more. */
    draining: z.boolean(),
    heardAt: at.nullable(),
    /** Whether it was heard of lately. */
    present: z.boolean(),
  })
  .meta({ id: 'Runner' });
export type RunnerSeen = z.output<typeof runnerSeen>;

const name = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'a runner’s name takes a–z, 0–9 and hyphens, 40 at most');

export const listRunnersRoute = route({
  method: 'GET',
  path: '/api/runners',
  summary: 'Lists the runners: their labels, what they build, since when they are silent',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: z.object({ runners: z.array(runnerSeen) }),
});
/** Makes a runner known; its token is shown this once. */
export const addRunnerRoute = route({
  method: 'POST',
  path: '/api/runners',
  summary: 'Makes a runner known; its token is shown this once',
  refuses: ['name-taken'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ name }),
  reply: z.object({ name: z.string(), token: z.string() }),
  made: ({ name }) => `/api/runners/${name}`,
  showsOnce: 'runner',
});
/** Draining: it is given no more builds, and finishes those it has. */
export const setRunnerRoute = route({
  method: 'PUT',
  path: '/api/runners/:runner',
  summary:
    'Lets a runner finish what it builds and gives it nothing more, or gives it builds again',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ draining: z.boolean() }),
  reply: runnerSeen,
});
/** Takes its token back. Refused while it builds. */
export const dropRunnerRoute = route({
  method: 'DELETE',
  path: '/api/runners/:runner',
  summary: 'Takes a runner’s token back',
  refuses: ['runner-builds'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: done,
});
