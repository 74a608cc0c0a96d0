import {
  cleanPath,
  matchesPath,
  noTools,
  type Parameter,
  type Recipe,
  type Serve,
} from '@vaquero/core';
import { z } from 'zod';
import { oneOrMore, refRule, written } from '../documents/words.ts';

const inside = (text: string): boolean =>
  !text.startsWith('/') && !text.startsWith('~') && !text.split('/').includes('..');

/** A folder of the tree below its root; a pattern is none. */
const inTree = (text: string): boolean =>
  inside(text) &&
  !/[*?[{]/.test(text) &&
  text.split('/').some((part) => part !== '' && part !== '.');

const path = written('line').min(1).max(255);
const folder = path
  .refine(inside, 'must stay inside the project’s folder')
  .describe('A folder below the project’s.');
const beyondPath = path
  .refine(
    (text) => text.startsWith('/') && !text.split('/').includes('..'),
    'must begin with / and stay inside the repository',
  )
  .describe('A path outside the project’s folder, from the repository’s root.');
const readPath = path.refine(
  (text) => (text.startsWith('/') ? !text.split('/').includes('..') : inside(text)),
  'must stay inside the project’s folder; what lies outside begins with / and stands under beyond',
);
const writePath = path.refine(
  (text) => (text.startsWith('/') ? !text.split('/').includes('..') : inside(text)),
  'must stay inside the project’s folder, or begin with / to lie below the repository’s root',
);
const cachePath = path.refine(
  (text) =>
    text.startsWith('~/') ? !text.split('/').includes('..') && text.length > 2 : inTree(text),
  'must be a folder of the build’s home, such as ~/.npm, or of the tree, such as node_modules/.cache',
);

/** What an operator labels a runner with. */
export const label = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'a label takes a–z, 0–9 and hyphens, 40 at most');
const stepName = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'a step’s name takes a–z, 0–9 and hyphens, 40 at most');
const recipeName = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'a recipe’s name takes a–z, 0–9 and hyphens, 40 at most');
const variableName = z
  .string()
  .regex(/^[A-Z][A-Z0-9_]{0,79}$/, 'a variable’s name takes A–Z, 0–9 and _, 80 at most');
/** A version of a package manager, or its major alone. */
const toolVersion = z
  .union([
    z.number().int().min(1).max(99),
    z
      .string()
      .regex(
        /^\d{1,3}(?:\.\d{1,5}){0,2}(?:-[0-9a-z.]{1,30})?$/,
        'must be a version, such as 9 or 9.15.4',
      ),
  ])
  .transform(String);
/** Names that the build itself makes: a recipe that set them could change what the walls rely on. */
const reserved = /^(?:PATH|HOME|TMPDIR|LD_|NODE_OPTIONS$|VAQUERO_)/;
const settable = variableName.refine((name) => !reserved.test(name), 'is made by the build itself');

const units: Readonly<Record<string, number>> = { s: 1000, min: 60_000, h: 3_600_000 };
const span = z
  .string()
  .regex(/^\d{1,5} ?(?:s|min|h)$/, 'must be a time such as 20 s, 5 min or 1 h')
  .transform((text) => Number.parseInt(text, 10) * (units[text.replace(/^\d+ ?/, '')] ?? 0))
  .refine((ms) => ms > 0 && ms <= 24 * 3_600_000, 'must be more than nothing and at most 24 h')
  .describe('A time, such as 20 s, 5 min or 1 h.');

const parameterName = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'a parameter’s name takes a–z, 0–9 and hyphens, 40 at most');
const parameterValue = z.union([written('text').max(2000), z.number(), z.boolean()]);
const parameterKind = z.enum(['text', 'number', 'flag']);
/** What a lent step lets be said of it: a kind, or a kind or a choice with what holds when nothing is said. */
const parameter = z
  .union([
    parameterKind,
    z.strictObject({ takes: parameterKind, default: parameterValue }),
    z.strictObject({
      'one-of': z.array(written('text').min(1).max(200)).min(1).max(64),
      default: parameterValue.optional(),
    }),
  ])
  .transform((one): Parameter => {
    if (typeof one === 'string') return { takes: one, default: null };
    return { takes: 'takes' in one ? one.takes : one['one-of'], default: one.default ?? null };
  });
const borrowed = z
  .strictObject({
    project: written('line').min(1).max(40),
    step: stepName,
    commit: z
      .string()
      .regex(
        /^(?:[0-9a-f]{40}|[0-9a-f]{64})$/,
        'must be a whole commit id, so that it never moves',
      ),
  })
  .describe('Where the step’s definition is taken from: a step that another project lends.');

const stepFields = z.strictObject({
  run: oneOrMore(written('text').min(1).max(20_000), 32)
    .default([])
    .describe('Commands, in turn; the first that fails ends the step.'),
  borrows: borrowed.nullable().default(null),
  params: z
    .record(parameterName, parameterValue)
    .default({})
    .describe('What is said of a borrowed step.'),
  lends: z
    .record(parameterName, parameter)
    .nullable()
    .default(null)
    .describe('Lets other projects borrow it, and says what they may say of it.'),
  after: oneOrMore(stepName, 64).default([]).describe('Steps that must have ended well before.'),
  network: z
    .enum(['none', 'out'])
    .default('none')
    .describe('What it reaches: nothing, or the outside.'),
  in: folder.nullable().default(null).describe('The folder it runs in.'),
  sets: z
    .record(settable, written('text').max(2000))
    .default({})
    .describe('Environment variables.'),
  given: oneOrMore(settable, 64)
    .default([])
    .describe('Names of variables and secrets it is given.'),
  reads: z
    .union([readPath, z.array(readPath).max(256)])
    .transform((one): readonly string[] => (typeof one === 'string' ? [one] : one))
    .nullable()
    .default(null)
    .describe('Paths and patterns it sees; left out: everything, and it is never reused.'),
  writes: z
    .union([writePath, z.array(writePath).max(64)])
    .transform((one): readonly string[] => (typeof one === 'string' ? [one] : one))
    .nullable()
    .default(null)
    .describe(
      'Folders it writes and hands on, empty at first; left out: anywhere, and it is never reused.',
    ),
  caches: oneOrMore(cachePath, 8)
    .default([])
    .describe('Folders of its home or of the tree that are kept between builds.'),
  within: span.nullable().default(null).describe('How long it may take.'),
  tries: z.number().int().min(1).max(5).default(1).describe('How often a flaky step is tried.'),
  for: refRule.nullable().default(null),
  failure: z
    .enum(['ends', 'warns'])
    .default('ends')
    .describe('What its failure does to the build.'),
  beside: oneOrMore(stepName, 8).default([]).describe('Helpers that run while it runs.'),
  results: z
    .strictObject({
      tests: oneOrMore(folder, 16).default([]).describe('JUnit XML or TAP, told by content.'),
      findings: oneOrMore(folder, 16).default([]).describe('SARIF 2.1.0.'),
    })
    .default({ tests: [], findings: [] })
    .describe('Reports it writes.'),
});
/** Keys that a borrowing step may have beside what it borrows. */
const kept = new Set(['borrows', 'params', 'after', 'for', 'failure']);
const plainStepFields = stepFields.parse({});
const stepSchema = stepFields.superRefine((step, context) => {
  const issue = (key: string, message: string): void =>
    context.addIssue({ code: 'custom', path: [key], message });
  if (step.borrows === null) {
    if (step.run.length === 0) issue('run', 'is missing: a step runs something, or borrows it');
    if (Object.keys(step.params).length > 0) issue('params', 'are said of a borrowed step only');
    return;
  }
  for (const [key, value] of Object.entries(step))
    if (!kept.has(key) && !isDeepEqual(value, plainStepFields[key as keyof typeof plainStepFields]))
      issue(key, 'stands at the lender; a borrowing step says after, for, failure and params');
});

function isDeepEqual(one: unknown, other: unknown): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}

const helperSchema = z.strictObject({
  run: written('text').min(1).max(2000),
  ready: z
    .strictObject({ port: z.number().int().min(1).max(65_535) })
    .nullable()
    .default(null),
  within: span.default(20_000),
});

const address = written('line').min(1).max(1000);
/** A value for each of some addresses. */
function byAddress<Value extends z.ZodType>(value: Value, most: number) {
  return z
    .record(address, value)
    .refine((all) => Object.keys(all).length <= most, `takes ${most} at most`);
}

/** Folders by the prefix at which each is answered; the one of all others is `/`. */
const severalSites = z.record(address, folder).superRefine((all, context) => {
  const issue = (key: string, message: string): void =>
    context.addIssue({ code: 'custom', path: [key], message });
  if (all['/'] === undefined)
    context.addIssue({
      code: 'custom',
      message: 'needs a folder for /, which holds the entry page',
    });
  for (const key of Object.keys(all))
    if (key !== '/' && !/^(?:\/(?!\.{1,2}(?:\/|$))[^/?#%*\\]+)+$/.test(key))
      issue(key, 'must be a folder of the site, such as /print');
  for (const [key, inner] of Object.entries(all)) {
    const outer = Object.entries(all).find(
      ([at, one]) => at !== key && matchesPath(one, cleanPath(inner)),
    );
    if (outer !== undefined)
      issue(
        key,
        `lies in “${outer[1]}”, which is published too; name folders that lie beside each other`,
      );
  }
});

const serveFields = z.strictObject({
  site: z
    .union([folder, severalSites])
    .describe('The folder that is published, or several by the prefix of their addresses.'),
  entry: path.default('index.html').describe('The page of a folder.'),
  missing: path.nullable().default(null).describe('The page that answers with 404.'),
  base: address.default('/').describe('The folder of the host that the site is built for.'),
  moved: byAddress(address, 2000)
    .default({})
    .describe('Old addresses and where they lead (308); * stands for the rest of both.'),
  instead: byAddress(address, 64)
    .default({})
    .describe('Pages that answer addresses which the site does not have (200).'),
  headers: byAddress(z.record(z.string().min(1).max(100), z.string().max(4000)), 64)
    .default({})
    .describe('Header fields by patterns of addresses; all that match, the later wins.'),
  immutable: oneOrMore(address, 16)
    .default([])
    .describe('Patterns of files that never change under their address: kept for a year.'),
});

/** What is served as core knows it: what is not said is left out. */
function serveOf(said: z.output<typeof serveFields>): Serve {
  const { site, entry, missing, base, moved, instead, headers, immutable } = said;
  const { '/': main = null, ...others } = typeof site === 'string' ? { '/': site } : site;
  const further = Object.entries(others).map(([at, from]) => [at.slice(1), from] as const);
  const movedFrom = Object.entries(moved).map(([from, to]) => ({ from, to }));
  const standsAt = Object.entries(instead).map(([at, page]) => ({ at, page }));
  const fieldsAt = Object.entries(headers).map(([at, fields]) => ({ at, fields }));
  return {
    site: main,
    entry,
    missing,
    ...(further.length === 0 ? {} : { sites: Object.fromEntries(further) }),
    ...(base === '/' ? {} : { base }),
    ...(movedFrom.length === 0 ? {} : { moved: movedFrom }),
    ...(standsAt.length === 0 ? {} : { instead: standsAt }),
    ...(fieldsAt.length === 0 ? {} : { headers: fieldsAt }),
    ...(immutable.length === 0 ? {} : { immutable }),
  };
}

/** A recipe as written: what this version knows of the language. Unknown keys are refused by name. */
export const recipeSchema = z.strictObject({
  recipe: recipeName.nullable().default(null).describe('Its name; left out, that of its file.'),
  format: z.literal(1).default(1),
  for: refRule.nullable().default(null),
  again: z
    .strictObject({
      cron: z
        .string()
        .regex(
          /^\s*(?:[\d*,/-]+\s+){4}[\d*,/-]+\s*$/,
          'must be five cron fields, such as 0 6 * * 1',
        ),
      branch: written('line').min(1).max(250).nullable().default(null),
    })
    .nullable()
    .default(null)
    .describe(
      'When it is built again, every step afresh: cron, in the zone of the map, UTC where that names none.',
    ),
  beyond: oneOrMore(beyondPath, 64).default([]).describe('All that steps see outside the folder.'),
  tools: z
    .strictObject({
      node: z.number().int().min(16).max(99).nullable().default(null),
      pnpm: toolVersion.nullable().default(null),
      yarn: toolVersion.nullable().default(null),
    })
    .default(noTools)
    .describe('Node by its major version, package managers by a version or a major one.'),
  runner: oneOrMore(label, 8).default([]).describe('Labels that its runner must bear.'),
  steps: z.record(stepName, stepSchema).default({}),
  beside: z.record(stepName, helperSchema).default({}).describe('Helpers, by name.'),
  serve: z
    .union([z.literal('nothing'), serveFields])
    .nullable()
    .default(null)
    .describe('What is published, or nothing; a further recipe without it makes evidence only.'),
});

/** The recipe as core knows it, from the schema's output; `otherwise` names one that does not name itself. */
export function recipeOf(written: z.output<typeof recipeSchema>, otherwise = 'site'): Recipe {
  const { recipe: name, format: _, steps, beside, serve, ...rest } = written;
  return {
    name: name ?? otherwise,
    ...rest,
    serve: serve === 'nothing' || serve === null ? null : serveOf(serve),
    steps: Object.entries(steps).map(([step, { within, params, borrows, ...fields }]) => ({
      name: step,
      ...fields,
      borrows: borrows && { ...borrows, params },
      withinMs: within,
    })),
    beside: Object.entries(beside).map(([helper, { run, ready, within }]) => ({
      name: helper,
      run,
      readyPort: ready?.port ?? null,
      withinMs: within,
    })),
  };
}

/** The language as JSON Schema (draft 2020-12), for editors that complete and check recipe files. */
export function recipeJsonSchema(): unknown {
  return {
    title: 'Recipe of Vaquero',
    ...z.toJSONSchema(recipeSchema, { io: 'input', unrepresentable: 'any' }),
  };
}
