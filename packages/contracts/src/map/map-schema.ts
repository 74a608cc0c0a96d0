import {
  admissions,
  type DeliveryMap,
  type EnvironmentRule,
  entrances,
  holdingByDefault,
  type InspectionRule,
  inspectionRules,
  mapActs,
  outsidersBuilt,
  type RefRule,
  roles,
} from '@vaquero/core';
import { z } from 'zod';
import { oneOrMore, refRule, written } from '../documents/words.ts';

const environmentName = z
  .string()
  .regex(
    /^[a-z](?:-?[a-z0-9])*$/,
    'must be a–z, 0–9 and single hyphens, beginning with a letter and not ending in a hyphen',
  )
  .max(40);

const units: Readonly<Record<string, number>> = { min: 60_000, h: 3_600_000, d: 86_400_000 };
const span = z
  .string()
  .regex(/^\d{1,4} ?(?:min|h|d)$/, 'must be a time such as 30 min, 1 h or 14 d')
  .transform((text) => Number.parseInt(text, 10) * (units[text.replace(/^\d+ ?/, '')] ?? 0))
  .refine((ms) => ms <= 366 * 86_400_000, 'must be at most 366 d')
  .describe('A time, such as 30 min, 1 h or 14 d.');

const lasting = span.refine((ms) => ms >= 600_000, 'must be at least 10 min');

const names = oneOrMore(
  z.string().regex(/^[A-Z][A-Z0-9_]*$/, 'must be a name such as MAP_KEY'),
  64,
);

const inspectionRule = z.enum(
  Object.keys(inspectionRules) as [InspectionRule, ...InspectionRule[]],
);

const personName = written('line').min(1).max(80);

const environment = z.strictObject({
  follows: refRule.optional(),
  each: refRule.optional(),
  accepts: z.strictObject({ from: environmentName }).optional(),
  enters: z
    .enum(entrances)
    .optional()
    .describe(
      'Whether what passed goes live by itself or waits for somebody’s word; by-itself where it is left out.',
    ),
  gives: z
    .strictObject({ build: z.union([z.array(z.never()).max(0), names]) })
    .optional()
    .describe(
      'The names that builds for it are given; every one where it is left out, none in a family.',
    ),
  overtaken: z.enum(['finish', 'stop']).optional(),
  stops: z
    .array(inspectionRule)
    .max(50)
    .optional()
    .describe('The findings that stop a build for it; the usual ones where it is left out.'),
  ends: z
    .strictObject({ closed: span.default(3_600_000), untouched: lasting.default(14 * 86_400_000) })
    .optional(),
  may: z
    .partialRecord(
      z.enum(mapActs),
      z.union([z.enum([...roles, 'nobody']), z.array(personName).max(64)]),
    )
    .optional()
    .describe(
      'Who promotes to it, rolls it back, holds it, ends it: a role, nobody, or people by name.',
    ),
  marks: z
    .enum(['yes', 'no'])
    .optional()
    .describe(
      'Whether its pages bear the brand and its name in a corner; no where it is left out.',
    ),
  pictures: z
    .enum(['yes', 'no'])
    .optional()
    .describe(
      'Whether pages that its builds change are pictured, before and after, where a runner has Chromium; no where it is left out.',
    ),
  admits: z
    .enum(admissions)
    .optional()
    .describe(
      'Whom its sites admit: anyone, members, or members and whoever has a lent link; anyone where it is left out, members in a family.',
    ),
  outsiders: z
    .strictObject({
      build: z.enum(outsidersBuilt).default('on-word'),
      network: z.enum(['out', 'none']).default('out'),
    })
    .optional()
    .describe(
      'Whether what outsiders propose is built on a member’s word or never, and whether its steps reach out as they say or not at all; on-word and out where they are left out.',
    ),
  'at-most': z.number().int().min(1).max(200).optional(),
  was: environmentName.optional(),
});

/** Whether the IANA database has a time zone of that name. Offsets such as +01:00 are none: they know no summer. */
function isZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return /^[A-Za-z]/.test(name);
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}

/** The language of maps. */
export const mapSchema = z
  .strictObject({
    map: written('line').min(1).max(80).describe('What the map is called.'),
    format: z.literal(1).default(1),
    zone: written('line')
      .max(64)
      .refine(isZone, 'must be a time zone such as Europe/Dublin')
      .default('UTC')
      .describe('The time zone of clock times, such as Europe/Dublin; UTC where it is left out.'),
    trunk: written('line').min(1).max(250).optional(),
    lanes: z.array(environmentName).min(1).max(64),
    environments: z.record(environmentName, environment),
  })
  .superRefine(({ environments }, context) => {
    const entries = Object.entries(environments);
    if (entries.length > 64)
      context.addIssue({ code: 'custom', path: ['environments'], message: 'are over 64' });
    const patterns = entries.flatMap(([, { follows, each }]) => patternsOf(follows ?? each));
    for (const message of patternFaults(patterns))
      context.addIssue({ code: 'custom', path: ['environments'], message });
    for (const [name, said] of entries)
      for (const message of shapeFaults(said))
        context.addIssue({ code: 'custom', path: ['environments', name], message });
  });

/** Every ref is held against every one of them. */
const mostPatterns = 256;
/** What a name with stars takes grows with its length. */
const mostLetters = 4_096;

function patternsOf(rule: RefRule | undefined): readonly string[] {
  return rule === undefined ? [] : [...rule.branch, ...rule.tag, ...rule.proposedInto];
}

/** What keeps a map from being held against every ref, whoever names the refs. */
function patternFaults(patterns: readonly string[]): readonly string[] {
  const odd = patterns.find((pattern) => pattern.includes('?'));
  return [
    ...(patterns.length > mostPatterns
      ? [`name over ${mostPatterns} branches, tags and targets together: * stands for many`]
      : []),
    ...(patterns.join('').length > mostLetters
      ? [`have over ${mostLetters} letters in the names of branches, tags and targets`]
      : []),
    ...(odd === undefined ? [] : [`say ${odd}, and no ref has a ?: * stands for any characters`]),
  ];
}

type Said = z.output<typeof environment>;

/** What one environment says that does not go together. */
function shapeFaults(said: Said): readonly string[] {
  const kinds = (['follows', 'each', 'accepts'] as const).filter((key) => said[key] !== undefined);
  const isOne = kinds.length === 1 || kinds.join() === 'follows,accepts';
  const rules = said.follows ?? said.each;
  const isEmpty = rules !== undefined && patternsOf(rules).length === 0;
  return [
    ...(isOne
      ? []
      : [
          kinds.length === 0
            ? 'says neither what it follows, nor what each of it is for, nor what it accepts'
            : `says ${kinds.join(' and ')}: one of each is for its ref alone`,
        ]),
    ...(isEmpty ? ['names no ref: branch, tag or proposed-into'] : []),
    ...(said.follows !== undefined && said.follows.proposedInto.length > 0
      ? ['follows what is proposed: that is what each is for']
      : []),
    ...(said.each === undefined ? familyFaults(said) : []),
    ...(said.enters !== undefined && kinds.join() === 'accepts'
      ? ['is promoted to by hand: enters is for what takes refs']
      : []),
    ...(kinds.join() === 'accepts' && (said.overtaken === 'stop' || said.stops !== undefined)
      ? ['builds nothing of its own, so there is nothing to stop']
      : []),
  ];
}

/** What only a family says, said of one environment. */
function familyFaults(said: Said): readonly string[] {
  return [
    ...(said.ends === undefined ? [] : ['never ends by itself: ends is for each']),
    ...(said['at-most'] === undefined ? [] : ['is one environment: at-most is for each']),
    ...(said.outsiders === undefined
      ? []
      : ['takes nothing of outsiders: that is said where pull requests go, in each']),
  ];
}

/** What a document says, as core reads it. `trunk` is the repository's own branch, for maps that name none. */
export function mapOf(
  read: z.output<typeof mapSchema>,
  version: number,
  trunk: string,
): DeliveryMap {
  const named = new Map(Object.entries(read.environments));
  const inOrder = [...new Set([...read.lanes.filter((lane) => named.has(lane)), ...named.keys()])];
  return {
    version,
    name: read.map,
    trunk: read.trunk ?? trunk,
    zone: read.zone,
    environments: inOrder.flatMap((name) => {
      const said = named.get(name);
      return said === undefined ? [] : [ruleOf(name, said)];
    }),
  };
}

function ruleOf(name: string, said: Said): EnvironmentRule {
  const every = {
    name,
    gives: said.gives?.build ?? (said.each === undefined ? ('every' as const) : []),
    overtaken: said.overtaken ?? ('finish' as const),
    stops: [...new Set(said.stops ?? holdingByDefault)],
    may: said.may ?? {},
    admits: said.admits ?? (said.each === undefined ? ('anyone' as const) : ('members' as const)),
    marks: said.marks === 'yes',
    pictures: said.pictures === 'yes',
    was: said.was ?? null,
  };
  if (said.each !== undefined)
    return {
      ...every,
      kind: 'each',
      each: said.each,
      enters: said.enters ?? 'by-itself',
      ends: {
        closedMs: said.ends?.closed ?? 3_600_000,
        untouchedMs: said.ends?.untouched ?? 14 * 86_400_000,
      },
      atMost: said['at-most'] ?? 20,
      outsiders: said.outsiders ?? { build: 'on-word', network: 'out' },
    };
  const from = said.accepts?.from ?? null;
  if (said.follows === undefined) return { ...every, kind: 'accepts', from: from ?? '' };
  return {
    ...every,
    kind: 'follows',
    follows: said.follows,
    enters: said.enters ?? 'by-itself',
    from,
  };
}
