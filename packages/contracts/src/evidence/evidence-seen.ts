import { severities } from '@vaquero/core';
import { z } from 'zod';
import { at, digest } from '../vocabulary.ts';

const testCase = z.object({
  name: z.string(),
  state: z.enum(['passed', 'failed', 'skipped']),
  tookMs: z.number().nullable(),
  message: z.string().nullable(),
  place: z.string().nullable(),
});

/** What a report of tests says, without the names of those that passed. */
export const testsSeen = z.object({
  step: z.string(),
  path: z.string(),
  total: z.number(),
  failed: z.number(),
  skipped: z.number(),
  tookMs: z.number(),
  failures: z.array(testCase),
  slowest: z.array(z.object({ name: z.string(), tookMs: z.number() })),
});

export const findingSeen = z.object({
  rule: z.string(),
  severity: z.enum(severities),
  message: z.string(),
  path: z.string(),
  line: z.number().nullable(),
  cure: z.string(),
});

/** What is known of a build's result beside its bytes. */
export const evidenceSeen = z.object({
  tests: z.array(testsSeen),
  /** Tests that both passed and failed over the last runs of the ref. */
  flaky: z.array(z.object({ name: z.string(), failed: z.number(), of: z.number() })),
  findings: z.array(findingSeen.extend({ step: z.string() })),
  /** Outputs that are not the same although their inputs are. */
  differences: z.array(
    z.object({ step: z.string(), files: z.array(z.string()), with: z.number().nullable() }),
  ),
  /** What the inspection says of the artifact before anything serves it. */
  inspection: z
    .object({ artifact: digest.nullable(), findings: z.array(findingSeen), at, tookMs: z.number() })
    .nullable(),
});
