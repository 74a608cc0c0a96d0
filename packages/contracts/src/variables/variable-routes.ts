import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, done, nothing } from '../vocabulary.ts';

/** The name of a variable, by which steps are given it. */
export const variableName = z
  .string()
  .regex(/^[A-Z][A-Z0-9_]{0,79}$/, 'a variable’s name takes A–Z, 0–9 and _, 80 at most');
/** Empty: the whole project. */
const inEnvironment = z
  .object({ environment: z.string().max(40).default('') })
  .default({ environment: '' });

export const variableSeen = z
  .object({
    name: z.string(),
    environment: z.string(),
    kind: z.enum(['plain', 'secret']),
    /** Null for a secret: it is never shown again. */
    value: z.string().nullable(),
    by: z.string(),
    setAt: at,
    usedAt: at.nullable(),
  })
  .meta({ id: 'Variable' });

export const variablesReply = z.object({
  variables: z.array(variableSeen),
  /** Where values may be set, the whole project (empty) first: who may, and whether the caller does. */
  places: z.array(z.object({ environment: z.string(), may: z.boolean(), who: z.string() })),
  /** Names that the recipe in force reads and nobody has set. */
  unset: z.array(z.string()),
});
export type VariablesReply = z.output<typeof variablesReply>;

export const listVariablesRoute = route({
  method: 'GET',
  path: '/api/projects/:project/variables',
  summary: 'Lists variables and secrets; a secret’s value is never shown',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: variablesReply,
});
export const setVariableRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/variables/:variable',
  summary: 'Sets a variable or a secret',
  refuses: ['map-says-who'],
  access: { in: 'values' },
  query: inEnvironment,
  body: z.strictObject({
    kind: z.enum(['plain', 'secret']),
    value: z.string().max(32_768),
  }),
  reply: variablesReply,
});
export const dropVariableRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/variables/:variable',
  summary: 'Takes a variable away',
  refuses: ['map-says-who'],
  access: { in: 'values' },
  query: inEnvironment,
  body: nothing,
  reply: done,
});
