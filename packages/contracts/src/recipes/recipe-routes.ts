import { noTools } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { commitId, line, nothing } from '../vocabulary.ts';
import { recipeSchema } from './recipe-schema.ts';

const refRuleSeen = z.object({
  branch: z.array(z.string()),
  tag: z.array(z.string()),
  proposedInto: z.array(z.string()),
});

/** A step as it travels and is kept. Fields that an earlier version did not know have its meaning as their default. */
export const stepOfRecipe = z
  .object({
    name: z.string(),
    run: z.array(z.string()),
    after: z.array(z.string()),
    network: z.enum(['none', 'out']),
    in: z.string().nullable().default(null),
    sets: z.record(z.string(), z.string()).default({}),
    given: z.array(z.string()).default([]),
    reads: z.array(z.string()).nullable().default(null),
    writes: z.array(z.string()).nullable().default(null),
    caches: z.array(z.string()).default([]),
    withinMs: z.number().nullable().default(null),
    tries: z.number().default(1),
    for: refRuleSeen.nullable().default(null),
    failure: z.enum(['ends', 'warns']).default('ends'),
    beside: z.array(z.string()).default([]),
    results: z
      .object({ tests: z.array(z.string()), findings: z.array(z.string()) })
      .default({ tests: [], findings: [] }),
    borrows: z
      .object({
        project: z.string(),
        step: z.string(),
        commit: z.string(),
        params: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])),
      })
      .nullable()
      .default(null),
    lends: z
      .record(
        z.string(),
        z.object({
          takes: z.union([z.enum(['text', 'number', 'flag']), z.array(z.string())]),
          default: z.union([z.string(), z.number(), z.boolean()]).nullable(),
        }),
      )
      .nullable()
      .default(null),
  })
  .meta({ id: 'StepOfRecipe' });

export const recipeSeen = z
  .object({
    name: z.string(),
    for: refRuleSeen.nullable().default(null),
    again: z.object({ cron: z.string(), branch: z.string().nullable() }).nullable().default(null),
    beyond: z.array(z.string()).default([]),
    tools: z
      .object({
        node: z.number().nullable().default(null),
        pnpm: z.string().nullable().default(null),
        yarn: z.string().nullable().default(null),
      })
      .default(noTools),
    runner: z.array(z.string()).default([]),
    steps: z.array(stepOfRecipe),
    beside: z
      .array(
        z.object({
          name: z.string(),
          run: z.string(),
          readyPort: z.number().nullable(),
          withinMs: z.number(),
        }),
      )
      .default([]),
    /** Null: it makes evidence only. */
    serve: z
      .object({
        site: z.string().nullable(),
        entry: z.string(),
        missing: z.string().nullable(),
        sites: z.record(z.string(), z.string()).exactOptional(),
        base: z.string().exactOptional(),
        moved: z.array(z.object({ from: z.string(), to: z.string() })).exactOptional(),
        instead: z.array(z.object({ at: z.string(), page: z.string() })).exactOptional(),
        headers: z
          .array(z.object({ at: z.string(), fields: z.record(z.string(), z.string()) }))
          .exactOptional(),
        immutable: z.array(z.string()).exactOptional(),
      })
      .nullable(),
  })
  .meta({ id: 'Recipe' });

export const recipeSource = z.discriminatedUnion('from', [
  z.object({ from: z.literal('file'), file: z.string() }),
  z.object({ from: z.literal('accepted'), version: z.number() }),
  z.object({
    from: z.literal('proposed'),
    because: z.array(z.string()),
    /** What works, and should be otherwise. */
    warnings: z.array(z.string()).default([]),
  }),
]);

export const difference = z.object({ field: z.string(), ours: z.string(), theirs: z.string() });

/** The recipe in force at the trunk's newest commit, and the two that it is measured against. */
export const recipeReply = z.object({
  /** Names what was accepted: a call that accepts another one says which it saw. */
  version: z.string(),
  commit: commitId.nullable(),
  inForce: z.object({ recipe: recipeSeen, source: recipeSource }).nullable(),
  proposed: z
    .object({
      recipe: recipeSeen.nullable(),
      because: z.array(z.string()),
      warnings: z.array(z.string()),
      /** Sites of which a person takes one. */
      candidates: z.array(
        z.object({ name: z.string(), recipe: recipeSeen, because: z.array(z.string()) }),
      ),
    })
    .nullable(),
  accepted: z.object({ version: z.number(), recipe: recipeSeen, by: z.string() }).nullable(),
  /** What the file (theirs) says otherwise than the accepted recipe (ours). */
  differences: z.array(difference),
  /** The text to commit as a recipe file, when the folder is known. */
  asFile: z.string().nullable(),
  fileFault: z.string().nullable(),
  /** The recipes beside the project's own: those of its folder of further ones. */
  further: z.array(
    z.object({
      name: z.string(),
      file: z.string(),
      steps: z.array(z.string()),
      publishes: z.boolean(),
      /** What is wrong with it, when it cannot be read. */
      fault: z.string().nullable(),
    }),
  ),
});

export const showRecipeRoute = route({
  method: 'GET',
  path: '/api/projects/:project/recipe',
  summary: 'Shows the recipe in force, the one proposed and the one accepted',
  refuses: ['commit-unreadable'],
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: recipeReply,
  tag: ({ version }) => version,
});

const { network, given, caches } = recipeSchema.shape.steps.unwrap().valueType.shape;
const stepWishes = z.strictObject({
  network: network.unwrap().optional(),
  given: given.unwrap().or(z.array(z.never()).max(0)).optional(),
  caches: caches.unwrap().or(z.array(z.never()).max(0)).optional(),
});

/** Commits the project's recipe file to its own branch, as a push of one's own would. */
export const commitRecipeRoute = route({
  method: 'POST',
  path: '/api/projects/:project/recipe/commits',
  summary: 'Commits the recipe file to the project’s branch of a repository hosted here',
  refuses: ['recipe-invalid', 'commits-elsewhere', 'branch-moved', 'commit-unreadable'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({
    text: z
      .string()
      .min(1)
      .max(1 << 18),
    message: line,
    /** Where the branch stood when it was looked at; null for one without a commit. */
    head: commitId.nullable(),
  }),
  reply: z.object({ commit: commitId }),
});

/** Accepts the recipe in force, with the fields that are given set anew. */
export const acceptRecipeRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/recipe',
  edits: true,
  summary: 'Accepts the recipe in force, with some of its fields set anew',
  refuses: ['recipe-file-wins', 'nothing-proposed', 'no-commit-yet', 'commit-unreadable'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: z.strictObject({
    site: z.string().min(1).max(255).optional(),
    entry: z.string().min(1).max(255).optional(),
    missing: z.string().min(1).max(255).nullable().optional(),
    /** The folder of the host that the site is built for. */
    base: z.string().min(1).max(1000).optional(),
    /** Pages that answer addresses which the site does not have, by pattern; none: no page does. */
    instead: z.record(z.string().min(1).max(1000), z.string().min(1).max(1000)).optional(),
    /** Nothing is published: what is built is tried, and makes evidence. */
    serve: z.literal('nothing').optional(),
    /** Which of several sites is taken, by the name that the proposal gives it. */
    candidate: z.string().min(1).max(255).optional(),
    /** New commands of steps, by name; an empty list removes the step. */
    run: z.record(z.string(), z.array(z.string().min(1)).max(32)).optional(),
    /** What else is said of steps, by name. */
    steps: z.record(z.string(), stepWishes).optional(),
    /** Versions of tools; null: the machine's own. */
    tools: recipeSchema.shape.tools.unwrap().partial().optional(),
    /** A whole recipe instead. */
    recipe: recipeSchema.optional(),
  }),
  reply: recipeReply,
  tag: ({ version }) => version,
});
