import type { BuildFailure } from '@vaquero/core';
import { z } from 'zod';

const text = z.string().max(4096);
const count = z.number().int().nonnegative();
const folders = z
  .array(z.strictObject({ folder: text, files: count, committed: z.literal(true).exactOptional() }))
  .max(200);
const fault = z.strictObject({
  path: text,
  message: text,
  line: count.nullable(),
  column: count.nullable(),
});
const stepEnd = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('exit'), exitCode: z.number().int() }),
  z.strictObject({ kind: z.literal('signal'), signal: z.string().max(40) }),
  z.strictObject({ kind: z.literal('time-limit'), limitMs: count }),
  z.strictObject({ kind: z.literal('memory-limit'), limitBytes: count }),
  z.strictObject({ kind: z.literal('disk-limit'), limitBytes: count }),
  z.strictObject({ kind: z.literal('log-limit'), limitBytes: count }),
  z.strictObject({ kind: z.literal('helper'), helper: text }),
  z.strictObject({ kind: z.literal('walls'), why: text }),
  z.strictObject({
    kind: z.literal('paths'),
    why: text,
    at: z.strictObject({ key: z.enum(['reads', 'writes']), path: text }).nullable(),
  }),
]);

/**
 * Why a build failed, as a runner may say it: in the cases that are a runner's to find, and with bounded texts. Whether
 * a commit can be read, a name is set or an artifact answers is not for a runner to say.
 */
export const runnerFailure = z.discriminatedUnion('reason', [
  z.strictObject({
    reason: z.literal('step'),
    step: z.string().max(60),
    end: stepEnd,
    atProcessLimit: z.boolean(),
  }),
  z.strictObject({
    reason: z.literal('recipe-invalid'),
    file: text,
    faults: z.array(fault).max(200),
  }),
  z.strictObject({ reason: z.literal('output-absent'), site: text.nullable(), folders }),
  z.strictObject({ reason: z.literal('output-empty'), site: text, folders }),
  z.strictObject({ reason: z.literal('entry-absent'), site: text, entry: text, folders }),
  z.strictObject({ reason: z.literal('missing-page-absent'), site: text, missing: text }),
  z.strictObject({ reason: z.literal('sites-overlap'), site: text, path: text, other: text }),
  z.strictObject({ reason: z.literal('link-leaves'), path: text, target: text }),
  z.strictObject({ reason: z.literal('special-file'), path: text, kind: z.string().max(40) }),
  z.strictObject({ reason: z.literal('bad-name'), path: text, fault: text }),
  z.strictObject({ reason: z.literal('source'), why: text }),
  z.strictObject({ reason: z.literal('store'), why: text }),
  z.strictObject({ reason: z.literal('runner-fault'), why: text }),
]) satisfies z.ZodType<BuildFailure>;

/** A failure as a runner sends it: texts that are too long are cut. Throws on a case that is not a runner's. */
export function failureOfRunner(failure: BuildFailure): z.output<typeof runnerFailure> {
  const cut = (_key: string, value: unknown): unknown =>
    typeof value === 'string' && value.length > 4096 ? `${value.slice(0, 4095)}…` : value;
  return runnerFailure.parse(JSON.parse(JSON.stringify(failure, cut)));
}
